"""Working points of a supply tree, as they were solved: tables that are as long as what they depend on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import DTypeLike

from ..numeric import Array


class Rows:
    """One table of the shape (operating points, states of charge) for each of several stages, sources or rails, as they were solved: what
    does not depend on the state of charge is one column. `rows[k]` is the k-th of them; what looks at several reads one array of the
    shape (rows, operating points, states of charge), which is put together when it is first asked for: for one state of charge alone
    (`rows[:, :, k]`), or whole."""

    def __init__(self, tables: Sequence[Array], shape: tuple[int, ...]) -> None:
        self._tables, self._shape = tables, shape
        self._columns: dict[int, Array] = {}

    def __getitem__(self, key: Any) -> Array:
        if isinstance(key, int | np.integer):
            table = self._tables[int(key)]
            return table if table.shape == self._shape else np.broadcast_to(table, self._shape)
        if isinstance(key, tuple) and len(key) == 3 and isinstance(key[2], int | np.integer):
            some: Array = self._at(int(key[2]))[key[:2]]
            return some
        several: Array = self.whole[key]
        return several

    def _at(self, charge: int) -> Array:
        """All of them at one state of charge, (rows, operating points)."""
        if charge not in self._columns:
            tables = (self.narrow(k) for k in range(len(self._tables)))
            columns = [x[:, charge if x.shape[1] > 1 else 0] for x in tables]
            self._columns[charge] = np.array(columns).reshape(len(columns), self._shape[0])
        return self._columns[charge]

    def narrow(self, key: int) -> Array:
        """One of them with a single column where it does not depend on the state of charge, (operating points, charges or 1)."""
        table = self._tables[key]
        rows = self._shape[0]
        return table if table.ndim == 2 and table.shape[0] == rows else np.broadcast_to(table, (rows, 1))

    def __array__(self, dtype: DTypeLike | None = None, copy: bool | None = None) -> Array:
        return np.array(self.whole, dtype, copy=copy)

    @cached_property
    def whole(self) -> Array:
        """All of them in one array."""
        result = empty_table((len(self._tables), *self._shape))
        for row, values in zip(result, self._tables, strict=True):
            row[:] = values
        return result

    def operating_points(self, chosen: slice) -> Rows:
        """Those of some of the operating points."""
        count = len(range(*chosen.indices(self._shape[0])))
        tables = [x[chosen] if x.ndim and x.shape[0] == self._shape[0] else x for x in self._tables]
        return Rows(tables, (count, *self._shape[1:]))

    @staticmethod
    def joined(blocks: list[Rows]) -> Rows:
        """Blocks of operating points one after the other; each table when it is first asked for."""
        return Rows(_Joined(blocks), (sum(b._shape[0] for b in blocks), blocks[0]._shape[1]))


class _Joined(Sequence[Array]):
    """The tables of several blocks, each put together when it is first asked for: of most solutions few are."""

    def __init__(self, blocks: list[Rows]) -> None:
        self._blocks, self._found = blocks, dict[int, Array]()

    def __len__(self) -> int:
        return len(self._blocks[0]._tables)

    def __getitem__(self, key: Any) -> Any:
        if key not in range(len(self)):
            raise IndexError(key)
        if key not in self._found:
            self._found[key] = _joined([b[key] for b in self._blocks])
        return self._found[key]


@dataclass(frozen=True)
class Solution:
    """Working points; every array has the shape (operating points, states of charge).

    terminal_v and source_a at the battery; other_* per source beside it, stage_* per stage of the tree, rail_*
    per rail. `collapsed` marks points without a stable working point; the currents there are those of a battery that
    its load shorts, and `given` is the share of what is asked for that they are (1 elsewhere).
    """

    terminal_v: Array
    source_a: Array
    other_v: Rows
    other_a: Rows
    stage_input_v: Rows
    stage_output_v: Rows
    stage_input_a: Rows
    stage_output_a: Rows
    rail_v: Rows
    rail_a: Rows
    collapsed: np.ndarray
    given: Array

    def operating_points(self, chosen: slice) -> Solution:
        """The working points of some of the operating points."""
        some: dict[str, Any] = {}
        for f in fields(self):
            table = getattr(self, f.name)
            some[f.name] = table.operating_points(chosen) if isinstance(table, Rows) else table[chosen]
        return Solution(**some)

    @staticmethod
    def joined(blocks: list[Solution]) -> Solution:
        """Blocks of operating points one after the other."""
        whole: dict[str, Any] = {}
        for f in fields(Solution):
            of = [getattr(x, f.name) for x in blocks]
            whole[f.name] = Rows.joined(of) if isinstance(of[0], Rows) else _joined(of)
        return Solution(**whole)


def empty_table(shape: tuple[int, ...], kind: DTypeLike = float) -> Array:
    """An empty array whose longer one of the last two axes lies in one piece: twice as fast, as what belongs to an operating point or to
    a state of charge alone spreads along whole pieces of it.

    >>> empty_table((3, 50)).shape, empty_table((50, 3)).strides
    ((3, 50), (8, 400))
    """
    *leading, operating_points, charges = shape
    if operating_points <= charges:
        return np.empty(shape, kind)
    return np.empty((*leading, charges, operating_points), kind).swapaxes(-1, -2)


def _joined(tables: list[Array]) -> Array:
    """Blocks of operating points one after the other."""
    rows, charges = sum(x.shape[0] for x in tables), tables[0].shape[1]
    return np.concatenate(tables, out=empty_table((rows, charges), tables[0].dtype))
