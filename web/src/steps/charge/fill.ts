import type { Status } from "../../design/types";

/** What a bar is filled with. */
export const FILL: Record<Status, string> = {
  pass: "bg-pass",
  watch: "bg-watch",
  fail: "bg-fail",
  unknown: "",
};
