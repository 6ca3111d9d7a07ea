"""What measured pieces teach, read back: of this shop and of others by their share; settling, yields, drift."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from peewee import fn
from pydantic import TypeAdapter, ValidationError

from ...core.common.errors import PlanError
from ...core.learning.belief import (
    LearnedFigures,
    LossRatio,
    MeasuredBend,
    class_of,
    learn,
    loss_ratio,
)
from ...core.learning.drift import Drift, drift
from ...core.learning.settling import Remeasurement, learn_settling
from ...core.measuring.built_form import FAILED
from ..tables import FormRow, MeasurementRow, PieceRow, TaughtRow
from .repository import Repository
from .shop_settings import saved_shop

BENDS: TypeAdapter[list[MeasuredBend]] = TypeAdapter(list[MeasuredBend])
LEAST_SHARE = 0.001  # of another shop's bends, below which they do not count
LATER: TypeAdapter[list[Remeasurement]] = TypeAdapter(list[Remeasurement])


def _counting(bend: MeasuredBend, share: float) -> MeasuredBend:
    """A bend of another shop, which counts so much beside one's own; left out where it does not count."""
    if share == 1.0:
        return bend
    return bend.model_copy(update={"share": share} if share >= LEAST_SHARE else {"left_out": True})


class TrainingRepository(Repository):
    """What all bends teach, computed anew only when the book has changed."""

    _learnt: tuple[str, LearnedFigures] | None = None
    _drifted: tuple[str, list[tuple[str, int, Drift]]] | None = None
    _seen: tuple[str, list[tuple[int, int, MeasuredBend]]] | None = None

    def save(self, piece_id: int, bend: MeasuredBend | None, *, later: list[Remeasurement], built: str) -> None:
        """Save anew what a piece shows; nothing where there is no bend.

        later: what was gone when it was measured again. built: its form by the hours it was on it, as JSON; empty
        where that is the form as built. Raises: NotKept.
        """
        with self.database.writing():
            self.database.count_up("book")
            TaughtRow.delete().where(TaughtRow.piece == piece_id).execute()
            if bend is not None:
                told = LATER.dump_json(later).decode() if later else ""
                TaughtRow.create(piece=piece_id, body=bend.model_dump_json(), later=told, built=built)

    def missing(self) -> list[int]:
        """Return the measured pieces of which nothing is written, as those of earlier versions."""
        known = TaughtRow.select(TaughtRow.piece)
        rows = PieceRow.select(PieceRow.id).join(MeasurementRow).where(PieceRow.id.not_in(known)).distinct()
        return [row.id for row in rows]

    def forget(self) -> None:
        """Read everything anew next time, since the file was replaced."""
        self._learnt = self._seen = self._drifted = None

    def bends(self) -> list[MeasuredBend]:
        """One record for each measured piece that teaches, in the order they were written down."""
        return [bend for _, _, bend in self.by_piece()]

    def by_piece(self) -> list[tuple[int, int, MeasuredBend]]:
        """Job, piece and what it teaches, as they were written down; what cannot be read is passed over."""
        mark = self.mark()
        if self._seen is None or self._seen[0] != mark:
            self._seen = (mark, self._read_taught())
        return self._seen[1]

    def _read_taught(self) -> list[tuple[int, int, MeasuredBend]]:
        rows = self.database.db.execute_sql(
            "select f.job_id, p.id, t.body, f.origin from taught t join piece p on p.id = t.piece_id"
            " join built_form f on f.id = p.form_id order by p.id"
        ).fetchall()
        shares = self._shares()
        try:
            bends = BENDS.validate_json("[" + ",".join(r[2] for r in rows) + "]")
        except ValidationError:
            made = [(r[3], seen) for r in rows if (seen := self._one_taught(r))]
            return [(job, piece, _counting(bend, shares.get(o, 1.0))) for o, (job, piece, bend) in made]
        return [(r[0], r[1], _counting(bend, shares.get(r[3], 1.0))) for r, bend in zip(rows, bends, strict=True)]

    def _shares(self) -> dict[str, float]:
        """How much the bends of each other shop count."""
        return {other.name: other.share for other in saved_shop().others}

    @staticmethod
    def _one_taught(row: Any) -> tuple[int, int, MeasuredBend] | None:
        try:
            return row[0], row[1], BENDS.validate_json(f"[{row[2]}]")[0]
        except ValidationError:
            return None

    def learned(self) -> LearnedFigures:
        """What all bends teach; computed anew only when a piece or a measurement has changed."""
        return self.database.remembered(("learnt",), self._read_learnt)  # type: ignore[no-any-return]

    def mark(self) -> str:
        """How often the book has changed."""
        return self.database.fact("book")

    def _read_learnt(self) -> LearnedFigures:
        mark = self.mark()
        if self._learnt is None or self._learnt[0] != mark:
            settling = learn_settling(self.settled())
            self._learnt = (mark, replace(learn(self.bends()), made=self._made(), settling=settling))
        return self._learnt[1]

    def settled(self) -> list[tuple[str, list[Remeasurement]]]:
        """Class of glue or dryness, and what was gone later, of each piece that was measured again and teaches."""
        rows = (
            TaughtRow.select(TaughtRow.later, FormRow.stock_group, FormRow.origin)
            .join(PieceRow)
            .join(FormRow)
            .where((TaughtRow.later != "") & ~PieceRow.left_out)
        )
        made, shares = [], self._shares()
        for later, group, origin in rows.tuples():
            if not (share := shares.get(origin, 1.0)):
                continue
            try:
                seen = [replace(s, error=s.error / math.sqrt(share)) for s in LATER.validate_json(later)]
            except ValidationError:
                continue
            made.append((class_of(group), seen))
        return made

    def _made(self) -> dict[tuple[str, str], tuple[float, float]]:
        """Pieces that came out whole, and that failed, by way and stock group; another shop's by their share."""
        failed = fn.SUM(PieceRow.mishap.in_(sorted(FAILED)) | (PieceRow.verdict == "reject"))
        rows = (
            PieceRow.select(FormRow.way, FormRow.stock_group, FormRow.origin, fn.COUNT(PieceRow.id), failed)
            .join(FormRow)
            .group_by(FormRow.way, FormRow.stock_group, FormRow.origin)
        )
        made, shares = dict[tuple[str, str], tuple[float, float]](), self._shares()
        for way, group, origin, count, lost in rows.tuples():
            good, failed_ = made.get((way, group), (0.0, 0.0))
            share = shares.get(origin, 1.0)
            made[way, group] = good + share * (count - lost), failed_ + share * lost
        return {kind: counts for kind, counts in made.items() if sum(counts)}

    def drifts(self) -> list[tuple[str, int, Drift]]:
        """Where a kind of bend springs back otherwise than it did: stock group, the piece from which on, and how."""
        mark = self.mark()
        if self._drifted is None or self._drifted[0] != mark:
            self._drifted = (mark, self._read_drifts())
        return self._drifted[1]

    def _read_drifts(self) -> list[tuple[str, int, Drift]]:
        by_kind: dict[tuple[str, str], list[tuple[int, LossRatio]]] = {}
        for _, piece, bend in self.by_piece():
            if bend.left_out:
                continue
            try:
                by_kind.setdefault((bend.way, bend.group), []).append((piece, loss_ratio(bend)))
            except PlanError:
                continue
        found, learnt = [], self.learned()
        for (way, group), seen in sorted(by_kind.items()):
            scatter = learnt.about(way=way, group=group).scatter
            made = drift([r.ratio for _, r in seen], [r.error for _, r in seen], scatter)
            if made:
                found.append((group, seen[made.at][0], made))
        return found

    def count_from(self, origin: str) -> int:
        """How many measured pieces came from another shop."""
        rows = TaughtRow.select().join(PieceRow).join(FormRow).where(FormRow.origin == origin)
        return int(rows.count())
