// Two windows on one variant, and a server that keeps revisions: whatever is typed where and when, both end with all of it.
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import demo from "../../../demo/dusk-ear.json";
import { editBetween } from "./history";
import { together } from "./merging";
import { numbers } from "./random";
import type { Design, Variant } from "./types";

const START = { ...(demo as unknown as Design), summary: "" };
const LATENCY_MS = 120;
vi.setConfig({ testTimeout: 120_000 }); // of the machine's own clock, however busy it is

/** What the server does, in small: revisions in a row, a save on an older one refused with the newest, versions put together. */
class Server {
  head = 1;
  design: Design = START;
  refused = 0;
  saves = 0;
  down = false;
  async answer(request: Request): Promise<Response> {
    await new Promise((done) => setTimeout(done, LATENCY_MS));
    if (this.down) throw new TypeError("no connection");
    const path = new URL(request.url).pathname;
    const body = (request.method === "POST" ? await request.json() : {}) as Record<string, Design> & { base: never };
    if (path === "/api/evaluate") return json({ findings: [] });
    if (path === "/api/answers/merge") {
      const { base, mine, theirs } = body as unknown as { base: Design; mine: Design; theirs: Design };
      const merged = together(base, theirs, mine);
      const brought = editBetween("", mine, merged) ? [{ place: "Somewhere", mine: "1", theirs: "2" }] : [];
      const other = together(base, mine, theirs);
      const conflicts = editBetween("", merged, other) ? [{ place: "x", mine: "1", theirs: "2" }] : [];
      return json({
        conflicts,
        more: 0,
        mine_first: merged,
        theirs_first: other,
        kept: true,
        brought,
      });
    }
    if (path === "/api/variants/1/revisions") {
      if ((body as unknown as { base: number }).base !== this.head) {
        this.refused += 1;
        return json({ title: "stale", design: this.design, head: this.head }, 409);
      }
      this.head += 1;
      this.saves += 1;
      this.design = body["design"]!;
      return json({ id: this.head, runtime_h: 1 });
    }
    if (path === "/api/variants/1") return json(this.variant());
    throw new Error(path);
  }
  variant(): Variant {
    return {
      id: 1,
      design: this.design,
      revision: { id: this.head },
      project: { role: "own" },
      baseline_design: null,
    } as unknown as Variant;
  }
}

const json = (body: unknown, status = 200) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });

let server: Server;
let channels: { deliver: ((e: { data: unknown }) => void)[] }[] = [];

beforeEach(() => {
  vi.useFakeTimers();
  server = new Server();
  channels = [];
  vi.stubGlobal("fetch", (request: Request) => server.answer(request));
  vi.stubGlobal("window", { addEventListener: () => undefined });
  vi.stubGlobal("document", { cookie: "" });
  vi.stubGlobal("navigator", {});
  vi.stubGlobal("DOCUMENT_SHAPE", "x");
  vi.stubGlobal(
    "BroadcastChannel",
    class {
      deliver: ((e: { data: unknown }) => void)[] = [];
      constructor() {
        channels.push(this);
      }
      addEventListener(_: string, listen: (e: { data: unknown }) => void) {
        this.deliver.push(listen);
      }
      postMessage(data: unknown) {
        for (const other of channels)
          if (other !== this) setTimeout(() => other.deliver.forEach((d) => d({ data })), 5);
      }
    },
  );
  vi.stubGlobal(
    "Request",
    class extends Request {
      constructor(url: string, init?: RequestInit) {
        super(new URL(url, "http://local.test"), init);
      }
    },
  );
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

/** A window of its own: the store with its own state, and storage of its own. */
async function openWindow() {
  vi.resetModules();
  const kept: Record<string, string> = {};
  const storage = {
    getItem: (k: string) => kept[k] ?? null,
    setItem: (k: string, v: string) => void (kept[k] = v),
    removeItem: (k: string) => void delete kept[k],
  };
  vi.stubGlobal("localStorage", storage);
  vi.stubGlobal("sessionStorage", storage);
  const { useDesign } = await import("./store");
  await useDesign.getState().open(server.variant());
  await vi.advanceTimersByTimeAsync(1000);
  return useDesign;
}

type Store = Awaited<ReturnType<typeof openWindow>>;
const settle = (ms = 20_000) => vi.advanceTimersByTimeAsync(ms);
const part = (store: Store, i: number) => store.getState().design!.parts[i]!;

test("an edit is evaluated and saved", async () => {
  const one = await openWindow();
  one.getState().edit("name", (d) => void (d.name = "Other"));
  expect(one.getState().save.is).toBe("unsaved");
  await settle();
  expect(one.getState().save.is).toBe("saved");
  expect(server.design.name).toBe("Other");
});

test("another window's change leaves the way back, and says what it brought", async () => {
  const one = await openWindow();
  const two = await openWindow();
  one.getState().edit("cost", (d) => void (d.parts[0]!.cost = 7));
  await settle();
  expect(two.getState().notice).toContain("Changed in another window");
  two.getState().edit("quantity", (d) => void (d.parts[1]!.quantity = 4));
  await settle();
  expect([part(one, 0).cost, part(one, 1).quantity]).toEqual([7, 4]);
  one.getState().undo();
  expect([part(one, 0).cost, part(one, 1).quantity]).toEqual([START.parts[0]!.cost, 4]);
  await settle();
  expect(server.design).toEqual(two.getState().design);
  one.getState().redo();
  await settle();
  expect(two.getState().design!.parts[0]!.cost).toBe(7);
});

test("what is typed while versions are put together is saved at the next try", async () => {
  const one = await openWindow();
  const two = await openWindow();
  server.down = true;
  two.getState().edit("summary", (d) => void (d.summary = "two"));
  await settle(5000);
  expect(["offline", "saving"]).toContain(two.getState().save.is);
  server.down = false;
  one.getState().edit("cost", (d) => void (d.parts[0]!.cost = 9));
  await vi.advanceTimersByTimeAsync(1500);
  const before = server.refused;
  for (let i = 1; i <= 40; i += 1) {
    two.getState().edit("quantity", (d) => void (d.parts[1]!.quantity = i));
    await vi.advanceTimersByTimeAsync(LATENCY_MS / 2); // all the while
  }
  await settle();
  expect(server.refused - before).toBeLessThanOrEqual(1);
  expect(two.getState().save.is).toBe("saved");
  expect([server.design.parts[0]!.cost, server.design.parts[1]!.quantity, server.design.summary]).toEqual([
    9,
    40,
    "two",
  ]);
});

test("the same in both windows is no change, and nothing is said of it", async () => {
  const one = await openWindow();
  const two = await openWindow();
  server.down = true;
  two.getState().edit("name", (d) => void (d.name = "Same"));
  await settle(3000);
  server.down = false;
  one.getState().edit("name", (d) => void (d.name = "Same"));
  await settle(60_000);
  expect(two.getState().save.is).toBe("saved");
  expect(two.getState().notice).toBeNull();
});

test.each(Array.from({ length: 24 }, (_, i) => i + 1))(
  "random edits in two windows end alike (seed %i)",
  async (seed) => {
    const next = numbers(seed);
    const stores = [await openWindow(), await openWindow()];
    const last: Record<string, number> = {};
    for (let i = 0; i < 25; i += 1) {
      const who = next() < 0.5 ? 0 : 1;
      server.down = next() < 0.2;
      const value = Math.floor(next() * 1000) + 1;
      // each has its own places, so that nothing is asked
      const place = (["cost", "quantity", "mass_g"] as const)[Math.floor(next() * 3)]!;
      stores[who]!.getState().edit(place, (d) => void (d.parts[who]![place] = value));
      last[`${who} ${place}`] = value;
      await vi.advanceTimersByTimeAsync(next() * 2500);
    }
    server.down = false;
    await settle(90_000);
    for (const store of stores) void store.getState().catchUp();
    await settle();
    for (const store of stores) {
      expect(store.getState().save.is).toBe("saved");
      expect(store.getState().design).toEqual(server.design);
    }
    for (const [key, value] of Object.entries(last)) {
      const [who, place] = key.split(" ") as ["0" | "1", "cost"];
      expect(server.design.parts[Number(who)]![place]).toBe(value);
    }
    // each takes all of its own back, and nothing of the other's
    const [one, two] = stores as [Store, Store];
    const others = structuredClone(part(one, 1));
    for (let i = 0; i < 60; i += 1) one.getState().undo();
    await settle();
    expect(part(one, 0)).toEqual(START.parts[0]);
    expect(part(two, 0)).toEqual(START.parts[0]);
    expect(part(two, 1)).toEqual(others);
  },
);
