// Notes: texts, pictures, files and links, each of the revision that it was written on; and all that happened, searched.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { FileDown, Trash2 } from "lucide-react";
import { useId, useState, type FormEvent } from "react";
import { ask, client, ProblemError, type Schemas } from "../../api/client";
import { upload } from "../../api/upload";
import { actions, useDesign, useMayChange, useOpenDesign } from "../../design/store";
import { Button, Choice, IconButton, INPUT, Section } from "../../ui/controls";
import { date, show } from "../../ui/format";
import { Problems } from "../../ui/problems";
import { setPending, useKeptText } from "../../ui/typed";

type Note = Schemas["NoteOut"];
type Happened = Schemas["HappenedOut"];

export function Notes() {
  const variant = useDesign((s) => s.variant)!;
  const path = { variant_id: variant.id };
  const key = ["notes", variant.id];
  const queries = useQueryClient();
  const notes = useQuery<Note[], ProblemError>({
    queryKey: key,
    queryFn: () => ask(client.GET("/api/variants/{variant_id}/notes", { params: { path } })),
  });
  const remove = useMutation<unknown, ProblemError, number>({
    mutationFn: (id) =>
      ask(client.DELETE("/api/variants/{variant_id}/notes/{note_id}", { params: { path: { ...path, note_id: id } } })),
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: key }),
        queries.invalidateQueries({ queryKey: ["timeline"] }),
      ]),
  });
  const mayChange = useMayChange();
  return (
    <Section title="Notes and pictures">
      {mayChange && <Write />}
      <Problems error={notes.error ?? remove.error} />
      <ul className="mt-3 space-y-3">
        {notes.data?.map((n) => (
          <One key={n.id} note={n} onRemove={mayChange ? () => remove.mutate(n.id) : undefined} />
        ))}
      </ul>
    </Section>
  );
}

function Write() {
  const variant = useDesign((s) => s.variant)!;
  const { parts, decisions } = useOpenDesign();
  const queries = useQueryClient();
  const id = useId();
  const draft = `note ${variant.id}`;
  const { text: typed, type, taken } = useKeptText(draft); // going elsewhere and coming back
  const text = typed ?? "";
  const [link, setLink] = useState("");
  const [about, setAbout] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const write = useMutation({
    mutationFn: async () => {
      await actions.saveNow(); // a note is of what is there
      const digest = file ? await upload(file, () => undefined, new AbortController().signal) : "";
      const body = { about, text, link: link.trim(), digest };
      await ask(
        client.POST("/api/variants/{variant_id}/notes", { params: { path: { variant_id: variant.id } }, body }),
      );
    },
    onSuccess: () => {
      taken(text);
      setPending(draft, false);
      setLink("");
      setFile(null);
      return Promise.all([
        queries.invalidateQueries({ queryKey: ["notes", variant.id] }),
        queries.invalidateQueries({ queryKey: ["timeline"] }),
      ]);
    },
  });
  return (
    <form
      className="space-y-2"
      onSubmit={(e: FormEvent) => {
        e.preventDefault();
        write.mutate();
      }}
    >
      <textarea
        className={INPUT}
        rows={2}
        maxLength={4000}
        aria-label="Note"
        placeholder="What was seen, tried or decided"
        value={text}
        onChange={(e) => {
          type(e.target.value);
          setPending(draft, e.target.value.trim() !== ""); // the browser asks before it closes the page
        }}
      />
      <div className="grid gap-2 sm:grid-cols-2">
        <Choice
          label="What the note is about"
          bare
          value={about}
          options={[
            ["", "the gadget"],
            ["bench", "a day on the bench"],
            ...decisions.flatMap((d) => (d.id ? [[d.id, `decision: ${d.what}`] as const] : [])),
            ...parts.map((p) => [p.id, p.name] as const),
          ]}
          onChange={setAbout}
        />
        <input
          className={INPUT}
          type="url"
          aria-label="Link"
          placeholder="https://"
          maxLength={500}
          value={link}
          onChange={(e) => setLink(e.target.value)}
        />
        <label htmlFor={id} className="sr-only">
          Picture or file
        </label>
        <input
          key={file ? "chosen" : "none"}
          id={id}
          type="file"
          className={INPUT}
          onChange={(e) => e.target.files?.[0] && setFile(e.target.files[0])}
        />
        <div className="flex items-center gap-2">
          <Button type="submit" disabled={!text.trim() && !link.trim() && !file} busy={write.isPending}>
            Keep the note
          </Button>
          {file && <span className="text-soft truncate text-sm">{file.name}</span>}
        </div>
      </div>
      {write.error && (
        <p role="alert" className="text-fail text-sm">
          {write.error instanceof ProblemError
            ? `It was not kept: ${write.error.sentences.join(" ")}`
            : write.error instanceof TypeError
              ? "The server does not answer; try again."
              : write.error.message}
        </p>
      )}
    </form>
  );
}

function One({ note, onRemove }: { note: Note; onRemove: (() => void) | undefined }) {
  const variant = useDesign((s) => s.variant)!;
  const { parts, decisions, brief } = useOpenDesign();
  const base = `/api/variants/${variant.id}/notes/${note.id}`;
  const named = decisions.find((d) => d.id === note.about)?.what ?? parts.find((p) => p.id === note.about)?.name;
  const about = note.about === "bench" ? "On the bench" : (named ?? note.about);
  const { revision } = note;
  return (
    <li className="border-line/60 flex gap-3 border-t pt-3">
      {note.picture && (
        <a href={`${base}/picture.jpg`} target="_blank" rel="noreferrer" className="shrink-0">
          <img
            src={`${base}/picture.jpg`}
            alt={note.text ? `Picture: ${note.text.slice(0, 120)}` : "Picture of the note"}
            loading="lazy"
            className="h-24 w-32 rounded-md object-cover"
          />
        </a>
      )}
      <div className="min-w-0 flex-1">
        {about && <h3 className="text-base">{about}</h3>}
        <p className="break-words whitespace-pre-line">{note.text}</p>
        {note.link && (
          <a href={note.link} target="_blank" rel="noreferrer noopener" className="block truncate underline">
            {note.link}
          </a>
        )}
        {note.file && (
          <a href={`${base}/file`} download className="inline-flex items-center gap-1 underline">
            <FileDown size={14} aria-hidden /> {note.file}
          </a>
        )}
        <p className="text-soft text-xs">
          {note.author}, {date(note.created)}
          {revision &&
            `, on revision ${revision.number}: ${show(revision.runtime_h, "h")}, ${show(revision.mass_g, "g")}, ${show(revision.cost, brief.currency)}`}
        </p>
      </div>
      {onRemove && (
        <IconButton
          label={`Take the note away: ${note.text.slice(0, 60) || note.file || "picture"}`}
          onClick={onRemove}
        >
          <Trash2 size={14} />
        </IconButton>
      )}
    </li>
  );
}

const SHOWN = 40;

export function Timeline() {
  const project = useDesign((s) => s.variant)!.project;
  const head = useDesign((s) => s.revision)!;
  const [text, setText] = useState("");
  const [all, setAll] = useState(false);
  const found = useQuery<Happened[], ProblemError>({
    queryKey: ["timeline", project.id, head.id, text],
    queryFn: ({ signal }) =>
      ask(
        client.GET("/api/projects/{project_id}/timeline", {
          params: { path: { project_id: project.id }, query: { text } },
          signal,
        }),
      ),
    placeholderData: (before) => before,
  });
  const rows = found.data ?? [];
  const days = new Map<string, Happened[]>();
  for (const h of all ? rows : rows.slice(0, SHOWN)) {
    const day = new Date(h.at).toLocaleDateString("en-GB", {
      weekday: "short",
      day: "numeric",
      month: "short",
      year: "numeric",
    });
    days.set(day, [...(days.get(day) ?? []), h]);
  }
  return (
    <Section title="What happened">
      <input
        type="search"
        className={INPUT}
        aria-label="Search what happened"
        placeholder="A word, a name"
        maxLength={200}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <Problems error={found.error} />
      {found.data && !rows.length && <p className="text-soft mt-2">Nothing with that in it.</p>}
      <ol className="mt-2 space-y-2">
        {[...days].map(([day, own]) => (
          <li key={day}>
            <h3 className="text-soft text-sm">{day}</h3>
            <ul>
              {own.map((h, i) => (
                <li key={i} className="flex gap-3 py-0.5">
                  <span className="text-soft w-12 shrink-0 text-sm tabular-nums">
                    {new Date(h.at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}
                  </span>
                  <span className="min-w-0 break-words">
                    {h.what} <span className="text-soft text-sm">{h.who}</span>
                  </span>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ol>
      {!all && rows.length > SHOWN && (
        <Button kind="quiet" onClick={() => setAll(true)}>
          All {rows.length}
        </Button>
      )}
    </Section>
  );
}
