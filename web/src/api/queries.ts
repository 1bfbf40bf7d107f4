// Server state: what is fetched, under which key, and what a change makes stale.
import { useEffect } from "react";
import {
  keepPreviousData,
  QueryClient,
  queryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { ask, client, form, multipart, type ProblemError, type Schemas } from "./client";

// Without a connection a question fails at once and is asked anew when there is one; nobody waits for what is not on its way.
export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 15_000,
      retry: false,
      refetchOnWindowFocus: false,
      networkMode: "always",
      refetchOnReconnect: true,
    },
    mutations: { networkMode: "always" },
  },
});

export const useSession = () =>
  useQuery({ queryKey: ["session"], queryFn: () => ask(client.GET("/api/session")), staleTime: Infinity });

export const useProjects = () => useQuery({ queryKey: ["projects"], queryFn: () => ask(client.GET("/api/projects")) });

export const useRevisions = (variant: number, head: number) =>
  useQuery({
    queryKey: ["revisions", variant, head],
    queryFn: () =>
      ask(client.GET("/api/variants/{variant_id}/revisions", { params: { path: { variant_id: variant } } })),
  });

/** The entries that a typed text means, the likeliest first. */
export const catalogueOf = (kind: Schemas["Entry"]["kind"] | undefined, text: string) =>
  queryOptions({
    queryKey: ["catalogue", kind, text],
    queryFn: () => ask(client.GET("/api/catalogue", { params: { query: { kind, text } } })),
  });

/** The same, with those of the text before until they are there: without a connection it waits, and they stay. */
export const useCatalogue = (kind: Schemas["Entry"]["kind"] | undefined, text: string) =>
  useQuery({ ...catalogueOf(kind, text), placeholderData: keepPreviousData, networkMode: "online" });

type SessionChange =
  | { do: "in" | "up"; name: string; password: string }
  | { do: "demo" }
  | { do: "out" }
  | { do: "password"; old: string; new: string };

/** Signing in, up and out, and changing the password; a change of person forgets everything fetched. */
export function useSessionChange() {
  const queries = useQueryClient();
  return useMutation<Schemas["SessionOut"], ProblemError, SessionChange>({
    mutationFn: (change) => {
      switch (change.do) {
        case "in":
          return ask(client.POST("/api/session", { body: { name: change.name, password: change.password } }));
        case "up":
          return ask(client.POST("/api/account", { body: { name: change.name, password: change.password } }));
        case "demo":
          return ask(client.POST("/api/session/demo"));
        case "password":
          return ask(client.POST("/api/account/password", { body: { old: change.old, new: change.new } }));
        default:
          return ask(client.DELETE("/api/session"));
      }
    },
    onSuccess: (session, change) => {
      if (change.do !== "password") queries.removeQueries({ predicate: (q) => q.queryKey[0] !== "session" });
      queries.setQueryData(["session"], session);
    },
  });
}

export const useTerms = () =>
  useQuery({ queryKey: ["terms"], queryFn: () => ask(client.GET("/api/terms")), staleTime: Infinity });

export type Answers = Schemas["Answers"];

export const useRecipes = () =>
  useQuery({ queryKey: ["recipes"], queryFn: () => ask(client.GET("/api/recipes")), staleTime: Infinity });

const beginningOf = (answers: Answers | null) => ({
  queryKey: ["beginning", answers],
  queryFn: ({ signal }: { signal: AbortSignal }) => ask(client.POST("/api/recipes/begin", { body: answers!, signal })),
  staleTime: Infinity,
});

/** What the answers come to; those of before until it is there. */
export const useBeginning = (answers: Answers | null) =>
  useQuery<Schemas["Begun"]>({ ...beginningOf(answers), enabled: answers !== null, placeholderData: keepPreviousData });

/** Works out what each kind comes to without any further answer, one after the other, while nobody has chosen yet. */
export function useBeginningsAhead(recipes: readonly Schemas["Recipe"][] | undefined, when: boolean) {
  const queries = useQueryClient();
  useEffect(() => {
    let going = when;
    const ahead = async () => {
      for (const recipe of recipes ?? []) {
        if (!going) return;
        await queries.prefetchQuery(beginningOf({ recipe: recipe.key }));
      }
    };
    void ahead();
    return () => {
      going = false;
    };
  }, [queries, recipes, when]);
}

export type NewGadget =
  | { from: "answers"; answers: Answers }
  | { from: "nothing"; name: string }
  | { from: "parts"; name: string; table: Schemas["PartsTable"] }
  | { from: "document"; file: File };

export function useNewGadget() {
  const queries = useQueryClient();
  return useMutation<Schemas["ProjectOut"], Error, NewGadget>({
    mutationFn: (wanted) => {
      if (wanted.from === "answers") return ask(client.POST("/api/projects/from-answers", { body: wanted.answers }));
      if (wanted.from === "nothing") return ask(client.POST("/api/projects", { body: { name: wanted.name } }));
      if (wanted.from === "parts")
        return ask(client.POST("/api/projects/from-table", { body: { name: wanted.name, table: wanted.table } }));
      return ask(
        client.POST(
          "/api/projects/from-document",
          multipart("/api/projects/from-document", form({ file: wanted.file })),
        ),
      );
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["projects"] }),
  });
}
