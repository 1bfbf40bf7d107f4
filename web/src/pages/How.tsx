// How it works: the models behind the figures, their sources and their limits; the same text as in the project's documents.
import Markdown, { type Components } from "react-markdown";
import remarkGfm from "remark-gfm";
import models from "../../../docs/MODELS.md?raw";
import { TopBar } from "../shell/TopBar";
import { useTitle } from "../ui/title";

const slug = (text: string) =>
  text
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, "-")
    .replaceAll(/^-+|-+$/g, "");
const HEADINGS = models.split("\n").flatMap((line) => (line.startsWith("## ") ? [plain(line.slice(3))] : []));

/** A heading without what only helps who reads the code. */
function plain(heading: string): string {
  return heading.replaceAll(/\s*\(`[^`]*`(?:, `[^`]*`)*\)/g, "").replaceAll("`", "");
}

const PARTS: Components = {
  h1: () => <h1 className="text-3xl">How it works</h1>,
  h2: ({ children }) => {
    const text = plain(textOf(children));
    return (
      <h2 id={slug(text)} className="scroll-mt-4">
        {text}
      </h2>
    );
  },
  table: ({ children }) => (
    <div className="overflow-x-auto">
      <table>{children}</table>
    </div>
  ),
  a: ({ children }) => <>{children}</>, // they lead to other documents of the project
};

export function How() {
  useTitle("How it works");
  return (
    <div className="min-h-screen">
      <TopBar />
      <div className="mx-auto grid max-w-6xl gap-x-10 px-4 py-6 lg:grid-cols-[15rem_minmax(0,1fr)]">
        <nav aria-label="What is explained" className="lg:sticky lg:top-4 lg:self-start">
          <ul className="flex flex-wrap gap-x-4 gap-y-1 lg:block lg:space-y-1">
            {HEADINGS.map((h) => (
              <li key={h}>
                <a href={`#${slug(h)}`} className="text-soft hover:text-ink text-sm underline-offset-2 hover:underline">
                  {h}
                </a>
              </li>
            ))}
          </ul>
        </nav>
        <main id="work" tabIndex={-1} className="how min-w-0">
          <Markdown remarkPlugins={[remarkGfm]} components={PARTS}>
            {models}
          </Markdown>
        </main>
      </div>
    </div>
  );
}

function textOf(node: unknown): string {
  if (typeof node === "string") return node;
  if (Array.isArray(node)) return node.map(textOf).join("");
  const inner = (node as { props?: { children?: unknown } } | null)?.props?.children;
  return inner === undefined ? "" : `\`${textOf(inner)}\``;
}
