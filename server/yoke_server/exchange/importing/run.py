"""From a file to a run: streamed, in one transaction, or nothing of it."""

from collections.abc import Iterator
from datetime import UTC, datetime
from typing import TYPE_CHECKING

from django.db import transaction
from yoke_core.table.time_base import RowSegment, TimeBase

from yoke_server.accounts.actor import Actor
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import unit as unit_of
from yoke_server.exchange.importing.choices import Choices, ColumnChoice
from yoke_server.exchange.importing.complete import complete
from yoke_server.exchange.importing.preview import ImportPreview, preview_of
from yoke_server.exchange.importing.rows import Batch, Figures
from yoke_server.exchange.importing.storage import on_disk
from yoke_server.exchange.importing.times import check_base, rate_step, seconds_of
from yoke_server.exchange.models import FileState, ImportedFile
from yoke_server.kinds.inputs.conditioning import FixedConditioning
from yoke_server.kinds.inputs.digital import AsReadScaling, DigitalWiring
from yoke_server.ledger.services import record
from yoke_server.record.envelopes import EnvelopeWriter
from yoke_server.record.hooks import announce_change
from yoke_server.record.models import Cause, Run, RunState, Stream
from yoke_server.record.runs import add_stream, create_run, next_number
from yoke_server.record.seal import seal, seal_of
from yoke_server.record.store import Samples, SegmentValues, add_envelope_rows, write_samples
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup, new_key

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

LABEL = "file"  # stands where a device's label stands
ROW_SAMPLES = 1 << 18  # numbers of a row
NOT_YET = 2_000_000_000  # the number of a run while it is being made, and seen by nobody


def make_run(key: str) -> Run:
    """The run of a file as it was chosen; raises a problem where that cannot be."""
    if made := Run.objects.filter(order_key=key).first():
        return made  # asked again after the answer was lost
    file = ImportedFile.objects.select_related("setup__project", "setup__bench", "owner").get(
        pk=key
    )
    choices = Choices.model_validate(file.choices, strict=False)
    preview = preview_of(file, choices)
    if preview.problem:
        raise Problem(422, preview.problem)
    with on_disk(file, preview.shape.separator) as path, transaction.atomic():
        run = _Work(file, path, preview).make()
        file.parts.all().delete()
        ImportedFile.objects.filter(pk=key).update(state=FileState.READ, run=run, problem="")
        record(Actor(file.owner, ""), f"Imported {file.name} as {run.name}")
        announce_change(run)
        notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
    return run


class _Work:
    def __init__(self, file: ImportedFile, path: str, preview: ImportPreview) -> None:
        self._file, self._path, self._preview = file, path, preview
        self._choices = choices = preview.choices
        assert choices.time is not None and choices.columns is not None
        self._time = choices.time
        self._taken = [c for c in choices.columns if c.take]

    def _rows(self) -> Iterator[Batch]:
        """The time first, where it is a column, then the taken ones."""
        places = [c.place for c in self._taken]
        if self._time.column is not None:
            places = [self._time.column, *places]
        figures = Figures(self._path, self._preview.shape, places, self._preview.encoding)
        return complete(figures.batches(), self._choices.doubtful)

    def make(self) -> Run:
        base = TimeBase()
        for batch in self._rows():
            base.push(*seconds_of(batch, self._time))
        check_base(base)
        run, stream = self._begin(base)
        chain = self._write(run, stream, base)
        stream.samples, stream.seal = base.rows, chain.hex()
        stream.save(update_fields=["samples", "seal"])
        run.seal = seal_of([chain])
        # Last, since a run that is being recorded may take a number meanwhile.
        setup = Setup.objects.select_for_update(of=("self",)).get(pk=run.setup_id)
        run.number = next_number(setup)
        run.save(update_fields=["seal", "number"])
        return run

    def _begin(self, base: TimeBase) -> tuple[Run, Stream]:
        setup, now = self._file.setup, datetime.now(UTC)
        channels = [self._channel(c, setup) for c in self._taken]
        rate = 1 / rate_step(base)
        document = freeze(setup).model_copy(
            update={"channels": channels, "rates_hz": {LABEL: rate}}
        )
        run = create_run(
            setup.revisions.select_related("setup").get(number=setup.version),
            document=document.model_dump(mode="json"),
            order_key=self._file.key,
            number=NOT_YET + int(self._file.key) % 100_000_000,
            name=self._choices.run_name or self._file.name.rpartition(".")[0][:80] or "Imported",
            state=RunState.KEPT,
            operator=self._file.owner,
            started_at=now,
            ended_at=now,
            ended_because=f"Imported from {self._file.name}",
            start_ns=_ns(base.found_segments[0].start),
            notes=self._notes(base),
        )
        return run, add_stream(run, LABEL, rate, channels)

    def _notes(self, base: TimeBase) -> str:
        start = base.found_segments[0].start
        lines = [f"Imported from {self._file.name}, {self._file.size} bytes, {base.rows} rows."]
        if start and self._time.column is not None:
            lines.append(f"Its time begins at {start:.9g} s in the file.")
        if self._choices.doubtful == "bridge":
            lines.append("Fields without a number were bridged by straight lines.")
        return "\n".join(lines)

    def _channel(self, choice: ColumnChoice, setup: Setup) -> FrozenChannel:
        pair = next((c for c in freeze(setup).channels if c.key == choice.pairs_with), None)
        unit = unit_of(choice.unit)
        return FrozenChannel(
            key=pair.key if pair else new_key(), name=choice.name, device_label=LABEL,
            device_serial="", input_number=choice.place + 1, signal="value",
            sensor_name=self._file.name[:60], sensor_serial="", calibrated_on=None, due_on=None,
            quantity=choice.quantity, wiring=DigitalWiring(), conditioning=FixedConditioning(),
            scaling=AsReadScaling(factor=unit.factor, offset=unit.offset),
            polarity="turned" if choice.turned else "as wired", steps=[],
            grid=pair.grid if pair else None, zero=None, zeroed_at=None, tare=None,
            tared_at=None, shunt_expected_mv_v=None, shunt_measured_mv_v=None,
            shunt_at=None, unit=choice.unit, decimals=pair.decimals if pair else 3,
        )  # fmt: skip

    def _write(self, run: Run, stream: Stream, base: TimeBase) -> bytes:
        """All samples, envelope rows and segments; gives the seal's chain."""
        chain, first = b"", 0
        envelope = EnvelopeWriter(stream.pk, len(self._taken))
        segments: list[SegmentValues] = [
            (stream.pk, s.first, _cause(s), 0, _ns(s.start), 1 / (s.step or base.step), 0, 0)
            for s in base.segments()
        ]
        for signals in self._blocks():
            rows = envelope.push(signals)
            data = signals.data.cast("B")
            checksum, chain = seal(chain, first, data)
            count = signals.shape[1]
            block = (stream.pk, first, count, 0, 0, checksum, chain, data)
            write_samples([Samples(stream.pk, run.pk, block, rows, segments)])
            segments, first = [], first + count
        add_envelope_rows(envelope.finish())
        return chain

    def _blocks(self) -> "Iterator[NDArray[np.float64]]":
        """(channels, samples) of about a row's size."""
        import numpy as np

        skip = 0 if self._time.column is None else 1
        many = max(1, ROW_SAMPLES // len(self._taken))
        for batch in self._rows():
            for at in range(0, len(batch.lines), many):
                part = batch.values[at : at + many, skip:]
                yield np.ascontiguousarray(part.T, dtype=np.float64)


def _cause(segment: RowSegment) -> Cause:
    if not segment.first:
        return Cause.START
    return Cause.GAP if segment.is_gap else Cause.CLOCK


def _ns(seconds: float) -> int:
    return round(seconds * 1e9)
