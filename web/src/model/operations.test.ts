import { describe, expect, it } from "vitest";
import type { Change, OperationValues } from "./change";
import {
  addOperations,
  addResource,
  copiedOperation,
  doneAt,
  followed,
  moveOperation,
  predecessors,
  removeOperation,
  resequence,
  setOperation,
} from "./operations";
import { linesByOperation, modelOf } from "./product";
import { visibleRows } from "./rows";
import { smallSheet } from "./testing";
import { overlay } from "./view";
import type { OperationRow } from "./wire";

const view = smallSheet();
const model = modelOf(view);
const stated = (change: Change) => change.after as OperationValues;
const operation = (id: string) => view.operations.find((o) => o.id === id)!;
const order = (changes: Change[]) => {
  const laid = modelOf(overlay(view, changes));
  return linesByOperation(laid, 0).map(([o, lines]) => [o?.sequence, lines.map((l) => l.id).join("")]);
};

describe("operations", () => {
  const centers = [
    { code: "W1", crew: "2" },
    { code: "W2", crew: "3" },
  ];
  it("take the crew of their center unless it was set by hand", () => {
    expect(doneAt(null, "W1", centers)).toEqual({ work_center: "W1", subcontract: null, crew: "2", setup_crew: "2" });
    expect(doneAt({ work_center: "W1", crew: "2", setup_crew: "1" }, "W2", centers)).toMatchObject({
      crew: "3",
      setup_crew: "1",
    });
    expect(doneAt(null, "outside", centers)).toMatchObject({ work_center: null, subcontract: { unit_price: "0" } });
  });
  it("count on in tens", () => {
    expect(addOperations(model, [{}, {}])[1].map((c) => stated(c).sequence)).toEqual([30, 40]);
  });
  it("follow the one before, and whoever names them follows a new number", () => {
    expect(predecessors(view.operations, operation("o20")).map((o) => o.id)).toEqual(["o10"]);
    expect(followed(view.operations, operation("o20"), [10])).toEqual([]);
    expect(followed(view.operations, operation("o20"), [20, 10])).toEqual([10, 20]);
    const named = [operation("o10"), { ...operation("o20"), after: [10] }];
    expect(resequence(named, new Map([[10, 15]])).map((c) => c.after)).toEqual([{ sequence: 15 }, { after: [15] }]);
  });
  it("change places, and leave their lines to the one before", () => {
    expect(moveOperation(model, operation("o10"), 1).map((c) => stated(c).sequence)).toEqual([20, 10]);
    expect(moveOperation(model, operation("o10"), -1)).toEqual([]);
    expect(order(removeOperation(model, operation("o20")))).toEqual([[10, "abs"]]);
    expect(order(removeOperation(model, operation("o10")))).toEqual([[20, "abs"]]);
  });
  it("hold one piece a cycle until it is said", () => {
    expect(setOperation(operation("o10"), { run_basis: "per_cycle" })[0]?.after).toEqual({
      run_basis: "per_cycle",
      cycle_quantity: "1",
    });
    const eight = { ...operation("o10"), cycle_quantity: "8" };
    expect(setOperation(eight, { run_basis: "per_cycle" })[0]?.after).toEqual({ run_basis: "per_cycle" });
  });
  it("forget that a run time came from finished orders when another is typed", () => {
    const measured = { ...operation("o10"), run_from_orders: 5 };
    expect(setOperation(measured, { run_minutes: "7" })[0]?.after).toEqual({ run_minutes: "7", run_from_orders: null });
    const computed = { ...operation("o10"), run_expression: "bends * 2" };
    expect(setOperation(computed, { run_minutes: "7" })[0]?.after).toEqual({ run_minutes: "7", run_expression: "" });
    const taken = { run_minutes: "8", run_expression: "bends * 4" };
    expect(setOperation(measured, taken)[0]?.after).toEqual({ ...taken, run_from_orders: null });
    expect(setOperation(measured, { name: "x" })[0]?.after).toEqual({ name: "x" });
  });
});

describe("what works beside an operation", () => {
  const beside = (id: string, resource: number) => ({ ...operation("o10"), id, beside: "o10", resource });
  const both = modelOf({ ...view, operations: [beside("r2", 2), ...view.operations, beside("r1", 1)] });
  const rowKeys = (of: typeof both) =>
    visibleRows(of, new Set(), true, false, false, { below: null, operation: null, beside: null }).map((r) => r.key);
  it("stands beneath it, in its order, and is no step of the routing", () => {
    expect(rowKeys(both)).toEqual(["/o10", "/r1", "/r2", "/a", "/b", "/o20", "/s"]);
    expect(both.operations.get(0)!.map((o) => o.id)).toEqual(["o10", "o20"]);
  });
  it("goes with it, and alone", () => {
    const gone = (o: OperationRow) => removeOperation(both, o).filter((c) => c.after === null);
    expect(gone(operation("o10")).map((c) => c.id)).toEqual(["o10", "r1", "r2"]);
    expect(gone(beside("r1", 1)).map((c) => c.id)).toEqual(["r1"]);
  });
  it("is copied with it, under a key of its own", () => {
    const [[id], changes] = addOperations(both, [copiedOperation(both, operation("o10"))]);
    expect(changes.map((c) => [stated(c).sequence, stated(c).beside])).toEqual([
      [30, undefined],
      [undefined, id],
      [undefined, id],
    ]);
  });
  it("stands last until the server has numbered it", () => {
    const [id, changes] = addResource("o10", { work_center: "W2", subcontract: null, resource: 7 });
    expect(changes[0]!.after).toEqual({ beside: "o10", work_center: "W2" });
    expect(rowKeys(modelOf(overlay(both.view, changes))).indexOf(`/${id}`)).toBe(3);
  });
});
