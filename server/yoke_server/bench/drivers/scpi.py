"""A text connection in SCPI style."""

import contextlib
import socket
import time

from yoke_server.bench.drivers.base import (
    AddressUnknown,
    ControlRefused,
    DriverError,
    Identity,
    LinkBroken,
    Refusal,
    printable,
)

MAX_ANSWER_LENGTH = 4096


class ScpiLink:
    """Lines out, lines in, with a time limit on every one.

    A connection whose answer stayed away is closed: a late answer would be taken for that to
    the next question.
    """

    def __init__(self, host: str, port: int, timeout: float = 2.0) -> None:
        self.host, self.port, self.timeout = host, port, timeout
        self._socket: socket.socket | None = None
        self._rest = b""

    def connect(self) -> None:
        self._socket = connect_to(self.host, self.port, self.timeout)
        self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self._rest = b""

    def close(self) -> None:
        if self._socket:
            with contextlib.suppress(OSError):
                self._socket.close()
        self._socket = None

    def command(self, *lines: str) -> None:
        """Send commands and have them confirmed; raises DriverError for one that is refused.

        The queue of errors is emptied first: what others left there is not ours.
        """
        self._send("".join(line + "\n" for line in ("*CLS", *lines)))
        self.check()

    def take_control(self, host: str) -> None:
        """Become the one host whose commands the device takes.

        Raises ControlRefused, naming the other one.
        """
        self._send(f'*CLS\nSYSTem:HOST "{host}"\nSYSTem:CONTrol:TAKE\n')
        number, _, text = self.ask("SYSTem:ERRor?").partition(",")
        if number == "-203":
            other = self.ask("SYSTem:CONTrol?")
            raise ControlRefused(f"{other} controls it; a device obeys one host at a time.")
        if number != "0":
            raise DriverError(f"the device refuses control: {text.strip(chr(34))}.")

    def ask(self, question: str) -> str:
        """Send a question and give its answer line."""
        self._send(question + "\n")
        answer = self._read_line()
        if answer == "ERROR":
            raise DriverError(f"the device refuses “{question}”: {self.ask('SYSTem:ERRor?')}")
        return answer

    def ask_number(self, question: str) -> float:
        answer = self.ask(question)
        try:
            return float(answer)
        except ValueError:
            raise DriverError(
                f"the device answers “{answer[:40]}” to “{question}”, which is not a number."
            ) from None

    def ask_whole(self, question: str) -> int:
        """A whole number of any size, which a float could not hold to the last digit."""
        answer = self.ask(question)
        try:
            return int(answer)
        except ValueError:
            raise DriverError(
                f"the device answers “{answer[:40]}” to “{question}”, which is no whole number."
            ) from None

    def check(self) -> None:
        """Raise DriverError if an earlier command was refused."""
        number, _, text = self.ask("SYSTem:ERRor?").partition(",")
        if number != "0":
            raise Refusal(f"the device refuses a setting: {text.strip(chr(34))}.")

    def identify(self, model: str) -> Identity:
        """*IDN? and *TST? of IEEE 488.2; raises DriverError for a model that begins otherwise."""
        parts = self.ask("*IDN?").split(",")
        if len(parts) != 4:
            raise DriverError(
                f"what answers at {self.host}:{self.port} does not identify itself as a device "
                "of this kind. Check the address."
            )
        if not parts[1].startswith(model):
            raise DriverError(
                f"what answers at {self.host}:{self.port} is “{parts[1][:40]}”, a device of "
                "another kind. Choose that kind, or check the address."
            )
        test = self.ask("*TST?")
        return Identity(parts[1], parts[2], parts[3], "passed" if test == "0" else f"fault {test}")

    def _connected(self) -> socket.socket:
        if not self._socket:
            raise LinkBroken("the device is not connected.")
        return self._socket

    def _broken(self, why: str) -> LinkBroken:
        self.close()
        return LinkBroken(why)

    def _send(self, text: str) -> None:
        link = self._connected()
        try:
            link.sendall(text.encode("ascii"))
        except OSError as error:
            raise self._broken("the connection to the device broke.") from error

    def _read_line(self) -> str:
        link = self._connected()
        until = time.monotonic() + self.timeout
        try:
            while b"\n" not in self._rest:
                # What dribbles in may not take longer than what does not come at all.
                link.settimeout(max(0.001, until - time.monotonic()))
                data = link.recv(4096)
                if not data or len(self._rest) > MAX_ANSWER_LENGTH:
                    raise self._broken("the connection to the device broke.")
                self._rest += data
        except OSError as error:
            raise self._broken("the device does not answer in time.") from error
        finally:
            with contextlib.suppress(OSError):  # another thread may have closed it meanwhile
                link.settimeout(self.timeout)
        line, _, self._rest = self._rest.partition(b"\n")
        return printable(line.decode("ascii", "replace"))


def connect_to(host: str, port: int, timeout: float) -> socket.socket:
    """A TCP connection to a device; raises DriverError with what to check."""
    try:
        return socket.create_connection((host, port), timeout)
    except (socket.gaierror, UnicodeError, OverflowError) as error:
        raise AddressUnknown(
            f"there is no address “{printable(host)}:{port}”. Check how it is written."
        ) from error
    except OSError as error:
        raise DriverError(
            f"nothing answers at {host}:{port}. Check its cable and power, and the address."
        ) from error
