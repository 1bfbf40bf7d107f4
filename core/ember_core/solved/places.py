"""What the things that get warm do to each other and to the wall, by where they sit."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..design import Design, Size
from ..enclosure.bodies import Placed, things
from ..enclosure.facing import facings
from ..numeric import Array
from ..thermal.materials import MATERIALS
from ..thermal.neighbours import (
    NARROW_M,
    Neighbours,
    between_w_per_k,
    neighbours,
    spreading_k_per_w,
    stands_still,
    to_wall_w_per_k,
)
from ..thermal.shell import FILM_RISE_K, USUAL_SURFACE_M2, chip_beyond_k_per_w, is_chip, own_k_per_w, part_film
from .nodes import Node

FILM_ROUNDS = 3
BEYOND = 0.7  # of a chip's resistance, that may lie between it and its board


@dataclass(frozen=True)
class Places:
    """What the nodes do to each other and to the wall, by where they sit. `beyond_k_per_w` is what a junction is above its own
    surface, (nodes,); `bare_w_per_k` what it gives to the air by its surface, `surface_m2` how large that is, `past_w_per_k` what it gives to walls
    so near that it hardly warms the air, (nodes,)."""

    neighbours: Neighbours
    beyond_k_per_w: Array
    bare_w_per_k: Array
    surface_m2: Array
    past_w_per_k: Array

    def beyond_k(self, node_w: Array) -> Array:
        """Each junction above the surface of its package or its board [K], which is there within seconds."""
        return np.asarray(self.beyond_k_per_w[:, None] * node_w)

    def from_others_k(self, node: int, node_w: Array) -> Array:
        """By how much a node is warmed by each other one [K], (nodes, cases)."""
        found = self.neighbours.per_w[node][:, None] * node_w
        found[node] = 0.0
        return np.asarray(found)

    def surface_k(self, node_w: Array, wall_k: Array) -> Array:
        """The surface of each node above the air inside [K], (nodes, cases): as the network says with films of small rises, less by
        what a warmer surface gives more: of what leaves a node the part that goes to the air by its own surface grows with its rise."""
        linear = self.neighbours.above_air_k(node_w, wall_k)
        own = (self.bare_w_per_k * np.diag(self.neighbours.per_w))[:, None]  # of what leaves it
        rise = linear.copy()
        for _ in range(FILM_ROUNDS):
            rise = linear / (
                1 + np.minimum(own, 1.0) * np.maximum(part_film(rise, self.surface_m2[:, None]) / self.small - 1, 0.0)
            )
        return np.asarray(rise)

    @cached_property
    def small(self) -> Array:
        """The film at a small rise, of which the network is made, (nodes, 1)."""
        return part_film(np.full((self.surface_m2.size, 1), FILM_RISE_K), self.surface_m2[:, None])

    def direct_w(self, surface_k: Array, wall_k: Array) -> Array:
        """What goes from the nodes, at their rises, straight into the walls that they are near to, past the air, (cases,) [W]."""
        return np.asarray((self.past_w_per_k[:, None] * np.maximum(surface_k - wall_k, 0.0)).sum(axis=0))


def places_of(design: Design, nodes: list[Node], bodies: list[Placed]) -> Places:
    """Bodies without a place face nothing.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> nodes = bench.warmth.nodes
    >>> found = places_of(design, nodes, bench.fit.placed)
    >>> found.surface_k(np.zeros((len(nodes), 1)), np.zeros(1)).shape == (len(nodes), 1)
    True
    """
    case = design.enclosure
    sizes = {x.pointer: x.body.size_mm for x in things(design) if x.body is not None}
    total = np.array([n.k_per_w for n in nodes])
    surface = np.array([min(n.k_per_w, _alone_k_per_w(n, sizes.get(n.pointer))) for n in nodes])
    row = {n.pointer: i for i, n in enumerate(nodes)}
    placed = [p for p in bodies if p.pointer in row]
    at = np.array([row[p.pointer] for p in placed], dtype=int)
    seen = facings(placed, case)
    wall_m, conductivity = np.maximum(np.asarray(case.walls), 0.01) / 1000, MATERIALS[case.plastic].conductivity
    spots, into = np.zeros((len(nodes), 6)), np.zeros((len(nodes), 6))
    area = np.zeros((len(nodes), 6))
    filled = np.array([_filled(p) for p in placed])[:, None]
    wall_m2, wall_gap_m = seen.wall_area_mm2 * 1e-6 * filled, seen.wall_gap_mm * 1e-3
    each = np.array([len(p.copies) for p in placed])[:, None]
    area[at] = wall_m2 * stands_still(wall_gap_m)
    into[at] = to_wall_w_per_k(wall_m2, wall_gap_m)
    spots[at] = spreading_k_per_w(wall_m2 / each, wall_m, conductivity) / each  # each copy has a spot of its own
    pair_m2, pair_gap_m = seen.area_mm2 * 1e-6, seen.gap_mm * 1e-3
    covered_m2 = pair_m2 * stands_still(pair_gap_m)
    several = np.ones(len(nodes))
    several[at] = [len(p.copies) for p in placed]
    surface_m2 = np.array([_surface_m2(sizes.get(n.pointer)) for n in nodes]) * several
    between = between_w_per_k(pair_m2, pair_gap_m)
    found = neighbours(1 / surface, surface_m2, at[seen.first], at[seen.second], between, covered_m2, into, area, spots)
    near = np.zeros((len(nodes), 6))
    near[at] = np.clip(1 - wall_gap_m / NARROW_M, 0.0, 1.0)
    past = (found.into_wall * near).sum(axis=1)
    return Places(found, total - surface, found.bare_w_per_k, surface_m2, past)


def _filled(body: Placed) -> float:
    """Of the sides of the box around several copies, what they fill: each dimension alike; 1 for a single body."""
    if len(body.copies) == 1:
        return 1.0
    box = float(np.prod(np.maximum(body.high - body.low, 1e-3)))
    return float(min(len(body.copies) * math.prod(body.body.size_mm) / box, 1.0) ** (2 / 3))


def _alone_k_per_w(node: Node, size: Size | None) -> float:
    """From the surface of a node to the air: of a chip that of its board."""
    if node.kind == "part" and (size is None or not is_chip(size)):
        return node.k_per_w
    own = own_k_per_w(size)
    return (
        own
        if size is None or not is_chip(size)
        else node.k_per_w - min(chip_beyond_k_per_w(size), BEYOND * node.k_per_w)
    )


def _surface_m2(size: Size | None) -> float:
    if size is None:
        return USUAL_SURFACE_M2
    x, y, z = (v / 1000 for v in size)
    return 2 * (x * y + y * z + x * z)
