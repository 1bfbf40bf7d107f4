// The one way to talk to the server: typed calls, the CSRF token, and errors as `ProblemError`.
import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./generated";

export type Schemas = components["schemas"];

export type FieldProblem = { path: string; message: string; place?: string };

/** An answer that says no: problem details with the places of the problems. */
export class ProblemError extends Error {
  readonly status: number;
  readonly problems: FieldProblem[];
  readonly more: Record<string, unknown>;
  constructor(status: number, title: string, problems: FieldProblem[], more: Record<string, unknown>) {
    super(title);
    this.status = status;
    this.problems = problems;
    this.more = more;
  }
  /** The message for one field, or the title where it has none of its own. */
  at(path: string): string | undefined {
    return this.problems.find((p) => p.path === path)?.message;
  }
  /** Everything that is wrong, in sentences. */
  get sentences(): string[] {
    return this.problems.length ? this.problems.map(inSentence) : [this.message];
  }
  /** The server can't just now, and may later: nothing is wrong with what was asked. */
  get passing(): boolean {
    return this.status >= 500 || this.status === 429;
  }
}

/** A problem with its place, in words where they are known. */
export const inSentence = (p: FieldProblem): string => {
  const place = p.place || p.path;
  return place ? `${place}: ${p.message}` : p.message;
};

const NOTHING = "Nothing was saved";

/** What went wrong, and of what was to be saved that it was not; of a question there is nothing to say of saving. */
export function wentWrong(error: Error, question: boolean): string {
  const said = error instanceof ProblemError ? error.message : "There is no connection";
  return question || said.includes(NOTHING) ? `${said}.` : `${said}. ${NOTHING}.`;
}

function cookie(name: string): string {
  return (
    document.cookie
      .split("; ")
      .find((c) => c.startsWith(`${name}=`))
      ?.slice(name.length + 1) ?? ""
  );
}

const csrf: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", cookie("csrftoken"));
    return request;
  },
};

export const client = createClient<paths>({ baseUrl: "" });
client.use(csrf);

/** Unwraps an answer; raises ProblemError where it is not a success. */
export async function ask<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<NonNullable<T>> {
  const { data, error, response } = await call;
  if (response.ok) return data as NonNullable<T>;
  const body = (typeof error === "object" && error !== null ? error : {}) as Record<string, unknown>;
  const { title, errors, ...more } = body;
  throw new ProblemError(
    response.status,
    typeof title === "string" ? title : `The server answered ${response.status}`,
    Array.isArray(errors) ? (errors as FieldProblem[]) : [],
    more,
  );
}

/** A multipart body from plain fields. */
export function form(fields: Record<string, string | Blob>): FormData {
  const data = new FormData();
  for (const [name, value] of Object.entries(fields)) data.append(name, value);
  return data;
}

type FormPath = {
  [P in keyof paths]: paths[P] extends { post: { requestBody: { content: { "multipart/form-data": unknown } } } }
    ? P
    : never;
}[keyof paths];
type Fields<P extends FormPath> = paths[P]["post"]["requestBody"]["content"]["multipart/form-data"];

/** A form as the body of a request to a path. The generated types know such a body by its fields; this is the one place where
 * the form stands for them. */
export function multipart<P extends FormPath>(_path: P, fields: FormData) {
  return { body: fields as unknown as Fields<P>, bodySerializer: () => fields };
}
