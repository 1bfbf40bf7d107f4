import type { Part } from "../../design/types";

/** An edit of the part that is open. */
export type ChangePart = (label: string, work: (draft: Part) => void) => void;
