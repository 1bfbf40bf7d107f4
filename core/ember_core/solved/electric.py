"""What is solved of a gadget's loads, supply and battery alone, and kept while its case, its bodies and its charger change."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from functools import cached_property
from threading import Lock
from typing import Any

from ..design import Design
from ..design.gadget import Brief
from ..runtime.run import Run, is_close, rerun, run, unplugged_a, with_battery
from ..runtime.uncertainty import Samples, sample_runtime
from .droop import Droop, find_droops

READ_OF_BRIEF = {"usual_c", "coldest_c", "use_factor"}
PLACED = {"body", "origin", "mass_g", "cost"}
UNREAD: dict[str, Any] = {
    **dict.fromkeys(("name", "summary", "charger", "enclosure", "wiring", "decisions", "dismissed", "guesses"), True),
    "brief": set(Brief.model_fields) - READ_OF_BRIEF,
    "battery": {"body", "swelling"},
    "parts": {"__all__": PLACED | {"grid", "way", "note", "pins", "needs", "alternatives"}},
    "supply": {"stages": {"__all__": PLACED}},
}  # by what is solved here; of the charger what it draws unplugged is
MOST_BYTES = 48 << 20
PER_BYTE, PER_TABLE = (
    25.0,
    1.5,
)  # bytes in memory for each of a document and of the tables: measured, with the samples and what is read off the runs
Key = tuple[str, float]


@dataclass(frozen=True)
class Electric:
    """A design's loads, supply and battery, each answer worked out once and when it is first asked for."""

    design: Design

    @cached_property
    def usual(self) -> Run:
        """The run at the brief's usual temperature."""
        return run(self.design)

    def usual_near(self, before: Run, points: int | None = None) -> Run:
        """The same, sooner where the run of another design at that temperature has solved some of it; over so many states of charge at least,
        or as many as its end needs."""
        if "usual" in vars(self):
            return self.usual
        found = rerun(before, self.design, points)
        if points is None or is_close(found):
            vars(self)["usual"] = found  # where the cached property keeps its value
        return found

    @cached_property
    def coldest(self) -> Run:
        """The same at its coldest."""
        brief = self.design.brief
        if brief.coldest_c == brief.usual_c:
            return self.usual
        return with_battery(self.usual, self.design.battery, brief.coldest_c)

    @cached_property
    def estimate(self) -> Samples:
        """The runtime's samples at the usual temperature."""
        return sample_runtime(self.usual)

    @cached_property
    def cold_estimate(self) -> Samples:
        """The same at the coldest."""
        return self.estimate if self.coldest is self.usual else sample_runtime(self.coldest, like=self.estimate)

    @cached_property
    def droops(self) -> list[Droop]:
        """What the peaks do to their rails at the usual temperature."""
        return find_droops(self.usual)

    @cached_property
    def cold_droops(self) -> list[Droop]:
        """The same at the coldest; none where that is the usual one."""
        if self.coldest is self.usual or not self.droops:
            return []
        end = self.coldest.ending[1]
        return find_droops(self.coldest, max(self.droops[0].charge, end if end < 1 else 0.0))

    @property
    def table_bytes(self) -> int:
        """What the tables of its two runs may hold, those that are not filled yet included; nothing before they are solved."""
        if "usual" not in vars(self):
            return 0
        state = self.usual
        supply = state.tree
        tables = 4 * len(supply.stages) + 2 * len(self.design.supply.rails) + 2 * len(supply.sources) + 3
        return 2 * 2 * 8 * tables * state.typical.source_a.size


class Known:
    """The electric answers of late, each for all designs that differ in nothing of what it reads. Several threads may ask it.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> taller = design.model_copy(update={"enclosure": design.enclosure.model_copy(update={"wall_mm": 3.0})})
    >>> known = Known()
    >>> known.of(design) is known.of(taller)
    True
    """

    def __init__(self, most_bytes: float = MOST_BYTES) -> None:
        self._most = most_bytes
        self._kept: OrderedDict[Key, Electric] = OrderedDict()
        self._lock = Lock()

    @property
    def held_bytes(self) -> float:
        """About how much memory is held: by the documents, which are many times as long in memory as they are written, and by what was solved."""
        return sum(PER_BYTE * len(key[0]) + PER_TABLE * found.table_bytes for key, found in self._kept.items())

    def of(self, design: Design) -> Electric:
        """What is known of a design's electrics. What was asked for longest ago makes room for what is new."""
        key = (design.model_dump_json(exclude=UNREAD), unplugged_a(design))
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
                return found
            found = self._kept[key] = Electric(design)
            while len(self._kept) > 1 and self.held_bytes > self._most:
                self._kept.popitem(last=False)
        return found
