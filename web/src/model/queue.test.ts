import { describe, expect, it } from "vitest";
import type { Stale } from "../lib/api";
import type { Change } from "./change";
import { EditQueue, type Failure, type History, reverse } from "./queue";

const change = (id: string, before: string, after: string): Change[] => [
  { table: "line", id, before: { quantity: before }, after: { quantity: after } },
];

/** A server that answers as it is told, and everything that the queue asked of the world. */
function world() {
  const asked: { version: number; ids: string }[] = [];
  const answers: (Failure | { made?: string[]; laid?: boolean })[] = [];
  const heard: string[] = [];
  /** Versions at which the sheet is read when it is next read again. */
  const readings: number[] = [];
  const history: History = { done: [], undone: [] };
  let shows = false;
  const queue = new EditQueue(
    {
      save: async (version, changes) => {
        asked.push({ version, ids: changes.map((c) => c.id).join("") });
        const next = answers.shift() ?? {};
        if ("message" in next) throw next;
        return { version: version + 1, made: next.made ?? [], laid: next.laid ?? true };
      },
      failure: (error) => error as Failure,
      refused: (error, changes) => {
        heard.push(`refused ${changes[0]?.id} ${(error as Failure).message}`);
        return shows;
      },
      made: (numbers) => heard.push(`made ${numbers}`),
      left: (numbers) => heard.push(`left ${numbers}`),
      reread: async (shown) => {
        heard.push(shown ? "reread" : "others");
        for (const version of readings.splice(0)) queue.read(version);
      },
      changed: () => {},
    },
    history,
  );
  queue.read(1);
  return { asked, answers, heard, readings, history, queue, show: (now: boolean) => (shows = now) };
}

describe("edits on their way", () => {
  it("are saved in order, each from the version that the one before left", async () => {
    const { queue, asked, heard, history } = world();
    queue.edit(change("a", "1", "2"));
    queue.edit(change("b", "1", "2"));
    expect(queue.pending.length).toBe(2);
    await queue.settled();
    expect(asked).toEqual([
      { version: 1, ids: "a" },
      { version: 2, ids: "b" },
    ]);
    expect([queue.pending.length, history.done.length, heard]).toEqual([0, 2, ["others"]]);
    queue.edit([]);
    await queue.settled();
    expect(asked.length).toBe(2);
  });
  it("stay laid on the view until figures that came without the answer are read", async () => {
    const { queue, answers, heard } = world();
    answers.push({ laid: false }, {});
    queue.edit(change("a", "1", "2"));
    queue.edit(change("b", "1", "2"));
    await queue.settled();
    expect([heard, queue.pending]).toEqual([["reread"], []]);
  });
  it("say which parts they made, and offer them when the step is undone", async () => {
    const { queue, answers, heard } = world();
    answers.push({ made: ["N-1"] });
    queue.edit(change("a", "1", "2"));
    await queue.settled();
    queue.undo();
    await queue.settled();
    expect(heard.filter((h) => !h.startsWith("others"))).toEqual(["made N-1", "left N-1"]);
  });
});

describe("steps back and forward", () => {
  it("are changes turned round, last first", () => {
    const two = [...change("a", "1", "2"), ...change("b", "3", "4")];
    expect(reverse(two)).toEqual([...change("b", "4", "3"), ...change("a", "2", "1")]);
  });
  it("wait for what is on its way, and a new edit forgets what was undone", async () => {
    const { queue, asked, history } = world();
    expect(queue.undo()).toBe(false);
    queue.edit(change("a", "1", "2"));
    expect(queue.undo()).toBe(true);
    await queue.settled();
    await queue.settled();
    expect(asked.map((a) => a.ids)).toEqual(["a", "a"]);
    expect([history.done.length, history.undone.length]).toEqual([0, 1]);
    expect(queue.redo()).toBe(true);
    await queue.settled();
    expect([history.done.length, history.undone.length]).toEqual([1, 0]);
    queue.undo();
    await queue.settled();
    queue.edit(change("b", "1", "2"));
    await queue.settled();
    expect([history.done.length, history.undone.length]).toEqual([1, 0]);
  });
});

describe("what cannot be saved", () => {
  it("waits in order while nothing reaches the server, and is sent again", async () => {
    const { queue, answers, asked } = world();
    answers.push({ message: "no connection", passing: true });
    queue.edit(change("a", "1", "2"));
    queue.edit(change("b", "1", "2"));
    await queue.settled();
    expect(asked.map((a) => a.ids)).toEqual(["a"]);
    expect(queue.unsent).toMatchObject({ reason: "no connection", blocks: true });
    expect([queue.unsent!.steps.length, queue.pending.length]).toEqual([2, 2]);
    queue.settleUnsent(true);
    await queue.settled();
    expect([asked.map((a) => a.ids), queue.unsent, queue.pending]).toEqual([["a", "a", "b"], null, []]);
  });
  it("is let go when that is wished", async () => {
    const { queue, answers, heard } = world();
    answers.push({ message: "no connection", passing: true });
    queue.edit(change("a", "1", "2"));
    await queue.settled();
    queue.settleUnsent(false);
    expect([queue.pending, queue.unsent, heard.at(-1)]).toEqual([[], null, "reread"]);
  });
  it("goes back where it was typed, or waits above the sheet, and stops nothing else", async () => {
    const { queue, answers, asked, heard, show } = world();
    answers.push({ message: "no", passing: false }, {});
    queue.edit(change("a", "1", "x"));
    queue.edit(change("b", "1", "2"));
    await queue.settled();
    expect([asked.map((a) => a.ids), heard[0], queue.unsent?.blocks]).toEqual([["a", "b"], "refused a no", false]);
    show(true);
    answers.push({ message: "no", passing: false });
    queue.edit(change("c", "1", "x"));
    await queue.settled();
    expect([queue.unsent?.steps.length, queue.pending.length]).toEqual([1, 1]);
  });
});

describe("somebody else saved first", () => {
  const stale = (version: number) => ({ version, changes: [] }) as unknown as Stale;
  it("stops the queue; all that waits is shown together, and laid on theirs in order", async () => {
    const { queue, answers, asked } = world();
    answers.push(
      { message: "stale", passing: false, stale: stale(5) },
      { message: "stale", passing: false, stale: stale(6) },
    );
    queue.edit(change("a", "1", "2"));
    queue.edit(change("b", "1", "2"));
    await queue.settled();
    // Asked once more for both, from the old version.
    expect(asked).toEqual([
      { version: 1, ids: "a" },
      { version: 1, ids: "ab" },
    ]);
    expect([queue.stale?.steps.length, queue.stale?.answer.version]).toEqual([2, 6]);
    queue.settleStale(true);
    await queue.settled();
    expect(asked.slice(2)).toEqual([
      { version: 6, ids: "a" },
      { version: 7, ids: "b" },
    ]);
    expect([queue.stale, queue.pending]).toEqual([null, []]);
  });
  it("and theirs is kept when that is chosen", async () => {
    const { queue, answers, asked } = world();
    answers.push({ message: "stale", passing: false, stale: stale(5) });
    queue.edit(change("a", "1", "2"));
    await queue.settled();
    queue.settleStale(false);
    expect([queue.pending, asked.length]).toEqual([[], 1]);
    queue.edit(change("b", "1", "2"));
    await queue.settled();
    expect(asked.at(-1)).toEqual({ version: 5, ids: "b" });
  });
  it("and a reading that comes meanwhile does not make what waits newer than it is", async () => {
    const { queue, answers, asked, readings } = world();
    answers.push({ message: "stale", passing: false, stale: stale(5) }, { message: "stale", passing: false });
    queue.edit(change("a", "1", "2"));
    queue.edit(change("b", "1", "2"));
    // Between the refusal and the question how both stand.
    readings.push(5);
    await queue.settled();
    expect(asked.map((a) => a.version)).toEqual([1, 1]);
    queue.settleStale(false);
    answers.push({ message: "no connection", passing: true }, {});
    queue.edit(change("c", "1", "2"));
    await queue.settled();
    expect(queue.read(9)).toBe(false);
    queue.settleUnsent(true);
    await queue.settled();
    expect(asked.slice(2).map((a) => a.version)).toEqual([5, 5]);
  });
  it("and a reading asked for before what was saved since is read again", async () => {
    const { queue } = world();
    queue.edit(change("a", "1", "2"));
    await queue.settled();
    expect([queue.read(1), queue.read(2), queue.read(3)]).toEqual([true, false, false]);
  });
});
