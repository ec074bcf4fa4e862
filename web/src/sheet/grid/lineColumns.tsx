import { KindMark } from "../../kit/KindMark";
import { LINE_KINDS, PART_KINDS } from "../../lib/declared";
import { quantity, typed } from "../../lib/number";
import { readLoss } from "../../model/lines";
import type { LineRowOnScreen } from "../../model/rows";
import { counts, lossOtherwise, lossText, usageText } from "../../model/texts";
import type { PartRow } from "../../model/wire";
import { SeverityMark } from "../../pieces/findings/SeverityMark";
import type { Column } from "./column";

/** A whole number as one, whatever else as it was typed: the server says what is wrong with it. */
export const whole = (text: string) => (/^\d+$/.test(text) ? Number(text) : text);

export const isNote = (row: LineRowOnScreen) => row.line.kind === "text";

const nothing = (row: LineRowOnScreen) => <span className="text-ink-3">{isNote(row) ? "" : "–"}</span>;

const ITEM: Column = {
  key: "item",
  label: "Item",
  width: "46px",
  right: true,
  number: true,
  value: (r) => r.line.item,
  show: (r, { finding, grip }) => (
    <>
      {finding && (
        <span className="absolute left-0.5" title={finding.message}>
          <SeverityMark severity={finding.severity} word={false} />
        </span>
      )}
      <span
        {...grip}
        className={`w-full text-right text-ink-3 ${grip ? "cursor-grab" : ""}`}
        title={grip ? "Drag to move the line" : undefined}
      >
        {r.line.item ?? "·"}
      </span>
    </>
  ),
  edit: {
    start: (r) => String(r.line.item ?? ""),
    of: "both",
    apply: (text) => ({ item: text === "" ? null : whole(text) }),
    fields: ["item"],
  },
};

const partNumber = (row: LineRowOnScreen) => row.line.typedPart ?? row.part?.number ?? "";

const PART: Column = {
  key: "part",
  label: "Part",
  width: "minmax(112px, 128px)",
  value: (r) => partNumber(r) || null,
  show: (r, { onToggle }) => (
    <span className="flex min-w-0 items-center" style={{ paddingLeft: r.level * 16 }}>
      <button
        type="button"
        tabIndex={-1}
        aria-hidden={!r.opens}
        aria-label={r.open ? "Close in place" : "Open in place"}
        className={`w-4 shrink-0 text-ink-3 ${r.opens ? "" : "invisible"}`}
        onMouseDown={(event) => {
          event.preventDefault();
          onToggle();
        }}
      >
        {r.open ? "▾" : "▸"}
      </button>
      <span className="pn truncate">{partNumber(r)}</span>
    </span>
  ),
  edit: { start: partNumber, part: true, apply: (text, _row, make) => ({ part: text, make }), fields: ["part"] },
};

const DESCRIPTION: Column = {
  key: "description",
  label: "Description",
  width: "minmax(112px, 1fr)",
  value: (r) => (isNote(r) ? r.line.text : (r.part?.description ?? null)),
  show: ({ line, part, level }) => (
    <span className="flex min-w-0 items-baseline gap-2" style={{ paddingLeft: level * 10 }}>
      <span
        className="truncate"
        title={[part?.description, line.reference_designators.join(", ")].filter(Boolean).join(": ")}
      >
        {line.kind === "text" ? <i>{line.text || "a note"}</i> : part?.description}
      </span>
      {line.kept_off.length > 0 && (
        <span className="shrink-0 text-[12px] text-ink-3" title={`not shown on: ${line.kept_off.join(", ")}`}>
          kept off
        </span>
      )}
    </span>
  ),
  edit: { start: (r) => r.line.text, of: "notes", apply: (text) => ({ text }), fields: ["text"] },
  ofPart: { start: (part) => part.description, apply: (description) => ({ description }) },
};

const KIND: Column = {
  key: "kind",
  label: "Kind",
  width: "84px",
  value: ({ line, part }) => (line.kind === "component" ? (part?.kind ?? null) : LINE_KINDS[line.kind].word),
  show: (r) => (
    <KindMark
      kind={r.line.kind === "component" ? (r.part?.kind ?? "") : LINE_KINDS[r.line.kind].word}
      note={r.line.kind === "component" ? usageText(r) || undefined : undefined}
    />
  ),
  ofPart: {
    start: (part) => part.kind,
    choices: () => Object.keys(PART_KINDS).map((kind) => [kind, kind]),
    apply: (kind) => ({ kind: kind as PartRow["kind"] }),
  },
};

const QUANTITY: Column = {
  key: "quantity",
  label: "Quantity",
  width: "62px",
  right: true,
  number: true,
  value: (r) => (r.line.quantity === null ? null : Number(r.line.quantity)),
  show: (r) => (r.line.quantity === null ? nothing(r) : quantity(r.line.quantity, 6)),
  edit: {
    start: (r) => r.line.quantity ?? "",
    apply: (text) => ({ quantity: typed(text) || null }),
    fields: ["quantity"],
  },
  figure: (r) => (counts(r) ? `${r.line.kind === "byproduct" ? "gross" : "net"}:${r.line.id}` : null),
};

const UNIT: Column = {
  key: "unit",
  label: "",
  width: "34px",
  value: (r) => (isNote(r) ? null : r.line.unit || (r.part?.unit ?? null)),
  show: (r) => <span className="text-[12px] text-ink-3">{isNote(r) ? "" : r.line.unit || r.part?.unit}</span>,
  edit: {
    start: (r) => r.line.unit || r.part?.unit || "",
    choices: (r, units) => {
      const measures = units.find((u) => u.symbol === r.part?.unit)?.measures;
      return units.filter((u) => !measures || u.measures === measures).map((u) => [u.symbol, u.symbol]);
    },
    apply: (text, r) => ({ unit: text === r.part?.unit ? null : text }),
    fields: ["unit"],
  },
};

const LOSS: Column = {
  key: "loss",
  label: "Loss",
  width: "82px",
  right: true,
  value: (r) => lossText(r) || null,
  show: (r) => (
    <span className="whitespace-nowrap text-ink-2" title={lossOtherwise(r)}>
      {lossText(r) || (isNote(r) ? "" : "–")}
    </span>
  ),
  edit: { start: lossText, apply: (text) => readLoss(text), fields: ["scrap_percent", "yield_percent"] },
  figure: (r) => (counts(r) ? `gross:${r.line.id}` : null),
};

/** Item, part, description, kind, quantity and loss stay put, whoever reads. */
export const SHARED: Column[] = [ITEM, PART, DESCRIPTION, KIND, QUANTITY, UNIT, LOSS];
