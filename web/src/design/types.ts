// Short names for the generated types of the document and the evaluation.
import type { Schemas } from "../api/client";

export type Design = Schemas["Design"];
export type Part = Schemas["Part"];
export type State = Schemas["State"];
export type Use = Schemas["Use"];
export type Mode = Schemas["Mode"];
export type Stage = Schemas["Supply"]["stages"][number];
export type Body = Schemas["Body"];
export type MadeOf = Schemas["BodyReport"]["made_of"];
export type Evaluation = Schemas["Evaluation"];
export type Figure = Schemas["Figure"];
export type Finding = Schemas["Finding"];
export type Saving = Schemas["Saving"];
export type Remedy = Schemas["Remedy"];
export type Verdict = Schemas["Verdict"];
export type Revision = Schemas["RevisionOut"];
export type Variant = Schemas["VariantOut"];
export type StepKey = Finding["step"] | "bench";
export type Status = Verdict["status"];
