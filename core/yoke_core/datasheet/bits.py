"""Fields of some bits one after the other, the lowest bit first, as IEEE 1451.4 packs them."""


class BitWriter:
    def __init__(self) -> None:
        self._number = 0
        self.written = 0  # bits

    def put(self, value: int, bits: int) -> None:
        """Append ``value``; it must fit into ``bits``."""
        if not 0 <= value < 1 << bits:
            raise ValueError(f"{value} does not fit into {bits} bits")
        self._number |= value << self.written
        self.written += bits

    def to_bytes(self) -> bytes:
        return self._number.to_bytes((self.written + 7) // 8, "little")


class BitReader:
    def __init__(self, data: bytes) -> None:
        self._number = int.from_bytes(data, "little")
        self._left = 8 * len(data)

    def take(self, bits: int) -> int:
        """The next ``bits`` as a number; raises EOFError past the end."""
        if bits > self._left:
            raise EOFError
        value = self._number & ((1 << bits) - 1)
        self._number >>= bits
        self._left -= bits
        return value
