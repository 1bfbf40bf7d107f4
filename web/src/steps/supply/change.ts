import type { Stage } from "../../design/types";

/** An edit of the stage that is open. */
export type ChangeStage = (label: string, work: (stage: Stage) => void) => void;
