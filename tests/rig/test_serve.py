"""The rig behind its sockets."""

import asyncio
import contextlib
import json
import socket
import subprocess
import sys
import time

import pytest
from yoke_rig.__main__ import announce
from yoke_rig.blocks import HEADER
from yoke_rig.serve import MAX_LINE_LENGTH, Rig, serve


def with_rig(scenario, speed=50.0):
    """Run ``scenario(rig, ports)`` beside a served rig; ports are control and data of A1."""

    async def main():
        rig, opened = Rig(speed=speed), asyncio.Event()
        task = asyncio.create_task(serve([rig], "127.0.0.1", 0, lambda ports: opened.set()))
        await opened.wait()
        control, frame = rig.ports["A1"], rig.ports["Load frame"]
        data = int(await ask(control, "DATA:PORT?"))
        try:
            return await asyncio.wait_for(scenario(rig, control, data, frame), 10)
        finally:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task

    return asyncio.run(main())


async def ask(port, line):
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    writer.write(line.encode() + b"\n")
    answer = await asyncio.wait_for(reader.readline(), 2)
    writer.close()
    return answer.decode().strip()


async def read_block(reader):
    header = HEADER.unpack(await reader.readexactly(HEADER.size))
    inputs, samples = header[6], header[8]
    await reader.readexactly(4 * inputs * (1 + samples))
    return header[3], header[7]  # sequence, flags


def test_control_and_frame_answer_on_their_ports():
    async def scenario(rig, control, data, frame):
        return await ask(control, "*IDN?"), await ask(frame, "*IDN?")

    amplifier, frame = with_rig(scenario)
    assert "BA8" in amplifier
    assert "LF25" in frame


def test_every_listener_gets_every_block_in_order():
    async def scenario(rig, control, data, frame):
        links = [await asyncio.open_connection("127.0.0.1", data) for _ in range(2)]
        return [[(await read_block(reader))[0] for _ in range(10)] for reader, _ in links]

    for sequences in with_rig(scenario):
        assert sequences == list(range(sequences[0], sequences[0] + 10))


def test_withheld_blocks_come_when_asked_for_again():
    async def scenario(rig, control, data, frame):
        reader, kept_open = await asyncio.open_connection("127.0.0.1", data)
        _, told = await asyncio.open_connection("127.0.0.1", control)
        first, _ = await read_block(reader)
        told.write(b"TEST:WITHhold 3\n")
        last = first
        while True:
            sequence, _ = await read_block(reader)
            if sequence > last + 1:
                break
            last = sequence
        told.write(f"DATA:AGAin {last + 1},{sequence - 1}\n".encode())
        again = []
        while len(again) < sequence - last - 1:
            number, flags = await read_block(reader)
            if flags:
                again.append(number)
        kept_open.close()
        return again, list(range(last + 1, sequence))

    again, missing = with_rig(scenario)
    assert again == missing
    assert len(missing) == 3


def test_a_line_too_long_ends_that_connection_only():
    async def scenario(rig, control, data, frame):
        reader, writer = await asyncio.open_connection("127.0.0.1", control)
        writer.write(b"x" * (4 * MAX_LINE_LENGTH))
        ended = await asyncio.wait_for(reader.read(), 2)
        return ended, await ask(control, "*TST?")

    assert with_rig(scenario) == (b"", "0")


def test_a_speed_factor_runs_faster_than_life():
    async def scenario(rig, control, data, frame):
        amplifier = rig.outlets["A1"].amplifier
        before = amplifier.sequence
        await asyncio.sleep(1.0)
        return amplifier.sequence - before

    assert with_rig(scenario, speed=10.0) == pytest.approx(100, rel=0.3)


def test_who_was_held_up_makes_up_for_it():
    async def scenario(rig, control, data, frame):
        await asyncio.sleep(0.3)
        amplifier = rig.outlets["A1"].amplifier
        before, at = amplifier.sequence, time.monotonic()
        time.sleep(3)  # nothing of the rig runs meanwhile
        shown = amplifier.clock_ns()
        await asyncio.sleep(1)
        passed = time.monotonic() - at
        return shown, amplifier.clock_ns(), amplifier.sequence - before, passed

    shown, later, blocks, passed = with_rig(scenario, speed=1.0)
    assert 0.9 <= (later - shown) * 1e-9 <= passed - 2.9
    assert blocks == pytest.approx(passed / 0.1, abs=2)


def test_what_is_too_much_to_be_made_up_for_is_lost_and_shows(monkeypatch):
    monkeypatch.setattr("yoke_rig.serve.MAX_LAG", 2.0)

    async def scenario(rig, control, data, frame):
        await asyncio.sleep(0.3)
        amplifier = rig.outlets["A1"].amplifier
        before, at = amplifier.sequence, amplifier.clock_ns()
        time.sleep(3)
        await asyncio.sleep(1)
        kept = {b.sequence for b in amplifier.memory}
        return before, amplifier.sequence, (amplifier.clock_ns() - at) * 1e-9, kept

    before, after, passed, kept = with_rig(scenario, speed=1.0)
    assert passed > 3.9
    assert after - before == pytest.approx(passed / 0.1, abs=2)
    assert not kept & set(range(before, before + 25))  # nobody can have them sent again


def test_time_that_passes_in_steps_passes_by_nothing_else():
    command = [sys.executable, "-m", "yoke_rig", "--stepped", "--benches", "shed"]
    rig = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    with rig:
        port = json.loads(rig.stdout.readline())["A1"]
        with socket.create_connection(("127.0.0.1", port)) as link, link.makefile("rw") as lines:

            def clock_s():
                print("SYSTem:TIME?", file=lines, flush=True)
                return int(lines.readline()) * 1e-9

            begin = clock_s()
            time.sleep(0.3)
            assert clock_s() == begin
            for _ in range(5):
                print("", file=rig.stdin, flush=True)
                assert rig.stdout.readline() == "passed\n"
            assert clock_s() - begin == pytest.approx(0.5, rel=1e-4)
        rig.stdin.close()
        assert rig.wait(10) == 0


def test_all_devices_sample_one_world_by_clocks_of_their_own():
    rig = Rig()
    for _ in range(400):
        rig.step()
    assert list(rig.outlets) == ["A1", "A2", "M1", "P1"]
    for amplifier in (outlet.amplifier for outlet in rig.outlets.values()):
        last = amplifier.memory[-1]
        end = last.time_ns * 1e-9 + len(last.counts) / last.rate
        true = (end - 1e6) / (1 + amplifier.drift_ppm * 1e-6)
        # the filter's delay is taken off, so the end lies that much before now
        delay = 3 / amplifier.rate
        assert true == pytest.approx(40 - delay, abs=2 / amplifier.rate)


def test_a_reset_is_as_good_as_a_new_rig():
    rig = Rig(seed=3)
    fresh = rig.world.coupon.material.modulus
    rig.world.crosshead.position = 5e-3
    rig.world.fit_coupon()
    rig.reset(3)
    assert rig.world.coupon.material.modulus == fresh
    assert rig.world.crosshead.position == 0


def test_ports_are_announced_whole(tmp_path, capsys):
    file = tmp_path / "ports"
    announce(file, {"A1": 1})
    assert json.loads(file.read_text()) == json.loads(capsys.readouterr().out) == {"A1": 1}
