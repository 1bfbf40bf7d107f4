// What is said of an answer that says no, or that does not come.
import { describe, expect, test } from "vitest";
import { ProblemError, wentWrong } from "./client";

const refused = (title: string) => new ProblemError(503, title, [], {});

describe("what went wrong", () => {
  test("of what was to be saved it is said that it was not, once", () => {
    expect(wentWrong(refused("The name is taken"), false)).toBe("The name is taken. Nothing was saved.");
    expect(wentWrong(refused("This took too long. Nothing was saved"), false)).toBe(
      "This took too long. Nothing was saved.",
    );
    expect(wentWrong(new TypeError("Failed to fetch"), false)).toBe("There is no connection. Nothing was saved.");
  });
  test("of a question nothing is said of saving", () => {
    expect(wentWrong(refused("The name is taken"), true)).toBe("The name is taken.");
    expect(wentWrong(new TypeError("Failed to fetch"), true)).toBe("There is no connection.");
  });
});
