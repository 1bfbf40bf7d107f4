// A supply of the front, and what it is held by.
import type { Schemas } from "../../api/client";

export type Row = Schemas["ChoiceRow"];
export type Aim = Schemas["ChoiceAnswer"]["aims"][number];
export const REFILLS: Record<Row["refill"], string> = {
  thrown: "thrown away when empty",
  swapped: "taken out to be charged",
  charged: "charged inside",
  bank: "power bank",
};

export const unitOf = (aim: Aim, currency: string): string =>
  ({ cost: currency, mass: "g", room: "cm³", hours: "h" })[aim];
export const AIMS: Record<Aim, string> = {
  cost: "cost of the gadget",
  mass: "mass of the gadget",
  room: "room that the supply takes",
  hours: "hours of charge",
};
export const valueOf = (row: Row, aim: Aim): number =>
  ({ cost: row.cost, mass: row.mass_g, room: row.room_cm3, hours: row.hours ?? 0 })[aim];
export const keyOf = (row: Row): string =>
  [row.refill, row.cell, row.series, row.parallel, row.charger, ...row.parts, ...row.options].join("|");
