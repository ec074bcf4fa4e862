import { useMemo } from "react";
import type { DataColumn } from "../../kit/dataColumns";
import { KindMark } from "../../kit/KindMark";
import { OutLink } from "../../kit/OutLink";
import { PART_KINDS } from "../../lib/declared";
import { money, quantity } from "../../lib/number";
import { free, short } from "../../model/texts";
import type { PartRow, SheetView } from "../../model/wire";
import { PartTable } from "../../pieces/parts/PartTable";

/** A part with how many of it are taken in all. */
type Taken = PartRow & { need: number };

const numberOf = (p: Taken) => p.number;

/** Every part of a product once, with what it takes of it on all paths together; or only what its own sheet takes. */
export function SummedList({
  view,
  topOnly,
  onPart,
}: {
  view: SheetView;
  topOnly: boolean;
  onPart: (part: PartRow) => void;
}) {
  const rows = useMemo(() => {
    if (!topOnly)
      return view.parts
        .map((p, i): Taken => ({ ...p, need: view.needs[i] ?? 0 }))
        .filter((p, i) => i !== view.top && p.kind !== "phantom" && p.need > 0);
    // Only what stands on the sheet itself; a part on several lines once.
    const direct = new Map<number, number>();
    for (const line of view.lines)
      if (line.parent === view.top && line.kind === "component" && line.gross)
        direct.set(line.child, (direct.get(line.child) ?? 0) + line.gross);
    const times = view.basis.quantity === null ? 1 : (view.parts[view.top]!.lot ?? 1);
    return [...direct].map(([child, gross]): Taken => ({ ...view.parts[child]!, need: gross * times }));
  }, [view, topOnly]);
  const each = view.basis.quantity === null ? "for one" : `for ${quantity(view.basis.quantity)}`;
  const columns = useMemo<DataColumn<Taken>[]>(() => {
    const job = view.basis.quantity !== null && !topOnly;
    // A job takes whole units of what is counted in them, rounded once on the total (rule N2).
    const ordered = (p: Taken) => (job ? (p.lot ?? p.need) : p.need);
    return [
      {
        key: "part",
        title: "Part",
        width: "minmax(96px,128px)",
        value: (p) => p.number,
        show: (p) => <span className="pn">{p.number}</span>,
      },
      { key: "description", title: "Description", width: "minmax(110px,1fr)", value: (p) => p.description },
      {
        key: "kind",
        title: "Kind",
        width: "80px",
        groups: true,
        value: (p) => p.kind,
        show: (p) => <KindMark kind={p.kind} />,
      },
      {
        key: "supplier",
        title: "Supplier",
        width: "100px",
        groups: true,
        off: true,
        value: (p) => p.supplier || null,
      },
      {
        key: "link",
        title: "Where it is bought",
        width: "96px",
        off: true,
        value: (p) => p.supplier_link || null,
        show: (p) => <OutLink to={p.supplier_link}>{p.supplier || "link"}</OutLink>,
      },
      { key: "size", title: "Case or size", width: "96px", groups: true, off: true, value: (p) => p.size_mm || null },
      { key: "class", title: "Class", width: "84px", groups: true, value: (p) => p.part_class },
      {
        key: "lifecycle",
        title: "Lifecycle",
        off: true,
        width: "62px",
        groups: true,
        value: (p) => p.lifecycle.replace("_", " "),
      },
      {
        key: "need",
        title: `Needed ${each}`,
        width: "96px",
        number: true,
        value: (p) => p.need,
        show: (p) => quantity(p.need, 4),
      },
      { key: "unit", title: "Unit", width: "30px", groups: true, value: (p) => p.unit },
      ...(
        [
          ["on_hand", "On hand", true, (p: Taken) => p.on_hand],
          ["free", "Free", true, (p: Taken) => free(p)],
          ["on_order", "On order", true, (p: Taken) => p.on_order],
          ["short", "Short", false, (p: Taken) => short(p, p.need, view.basis.quantity !== null)],
        ] as const
      ).map(([key, title, off, of]) => ({
        key,
        title,
        width: "66px",
        number: true,
        off,
        value: (p: Taken) => (PART_KINDS[p.kind].stocked ? of(p) : null),
        show: (p: Taken) => (PART_KINDS[p.kind].stocked ? quantity(of(p), 2) : ""),
      })),
      {
        key: "unit_cost",
        title: "Unit cost",
        width: "64px",
        number: true,
        costs: true,
        value: (p) => p.cost ?? null,
        show: (p) => money(p.cost),
      },
      ...(!job
        ? []
        : [
            {
              key: "order",
              title: "Rounded up",
              width: "76px",
              number: true,
              value: (p: Taken) => ordered(p),
              show: (p: Taken) => <b className="font-semibold">{quantity(ordered(p), 4)}</b>,
            },
          ]),
      {
        key: "value",
        title: `Value, ${view.currency}`,
        width: "84px",
        number: true,
        total: true,
        costs: true,
        // What is made is bought as its parts; adding both would count it twice.
        value: (p) => (p.kind === "made" && !topOnly ? null : ordered(p) * (p.cost ?? 0)),
        show: (p) => (p.kind === "made" && !topOnly ? "" : money(ordered(p) * (p.cost ?? 0))),
      },
    ];
  }, [view, each, topOnly]);
  // A part goes when every line that takes it is kept off.
  const shown = useMemo(() => {
    const list = topOnly ? "top" : "parts";
    const on = new Set<number>();
    for (const line of view.lines)
      if (
        line.net !== null &&
        line.net !== undefined &&
        !line.kept_off.includes(list) &&
        (!topOnly || line.parent === view.top)
      )
        on.add(view.parts[line.child]!.id);
    return on;
  }, [view, topOnly]);
  return (
    <PartTable
      numberOf={numberOf}
      keptOff={(p) => !shown.has(p.id)}
      name={topOnly ? "top level" : "parts only"}
      title={`${view.sheet.part} ${topOnly ? "top level" : "parts only"}`}
      columns={columns}
      rows={rows}
      sort={{ key: "value", down: true }}
      onOpen={onPart}
    />
  );
}
