import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { Menu, MenuItem } from "../kit/Menu";
import { answer, client, type Schemas } from "../lib/api";
import { dayAndTime } from "../lib/number";
import type { Choice, Compared, SideField, SideRow } from "../model/handover";
import { said } from "../model/handover";
import { KnownAs } from "./KnownAs";
import { Mark } from "./Mark";
import { Mend } from "./Mend";

const WORDS: [Choice, string, string][] = [
  ["ours", "Ours", "O"],
  ["theirs", "Theirs", "T"],
  ["leave", "Leave", "L"],
];

function useWho(id: number, row: SideRow) {
  return useQuery({
    queryKey: ["handovers", id, "who", row.key, row.of],
    queryFn: () =>
      answer(
        client.GET("/api/handover/{handover_id}/who", {
          params: {
            path: { handover_id: id },
            query: { row: row.key, fields: row.fields.map((f) => f.name).join(",") },
          },
        }),
      ),
    enabled: row.verdict !== "agrees",
  }).data;
}

function Choices({
  row,
  choice,
  proposal,
  onChoose,
  keys,
}: {
  row: SideRow;
  choice: string;
  proposal: string | null;
  onChoose: (choice: Choice | "") => void;
  keys: boolean;
}) {
  return (
    <span role="group" aria-label="is to stand" className="flex gap-1">
      {WORDS.filter(([name]) => row.choices.includes(name)).map(([name, word, key]) => {
        const on = choice === name;
        const would = !choice && proposal === name;
        return (
          <Button
            key={name}
            needs="handover"
            aria-pressed={on}
            title={would ? "proposed, since only this side moved" : undefined}
            className={`!min-h-[26px] !px-2 text-[13px] ${on ? "!border-blue bg-blue-tint font-semibold text-blue" : would ? "!border-blue border-dashed" : ""}`}
            onClick={() => onChoose(on ? "" : name)}
          >
            {word}
            {keys && <kbd className="text-[11px] text-ink-3">{key}</kbd>}
          </Button>
        );
      })}
    </span>
  );
}

function FieldBlock({
  row,
  field,
  who,
  keys,
  onChoose,
  onThroughout,
}: {
  row: SideRow;
  field: SideField;
  who?: Schemas["WhoMoved"];
  keys: boolean;
  onChoose: (choice: Choice | "") => void;
  onThroughout: (choice: Choice) => void;
}) {
  const mine = who?.ours.find((w) => w.field === field.name);
  const line = (word: string, value: ReactNode, note?: ReactNode, strong = false) => (
    <>
      <dt className="text-ink-3">{word}</dt>
      <dd className={`min-w-0 break-words ${strong ? "font-semibold" : ""}`}>
        {value}
        {note && <span className="block text-[12px] font-normal text-ink-3">{note}</span>}
      </dd>
    </>
  );
  return (
    <section className="border-t border-hair py-2" aria-label={field.word}>
      <h3 className="flex items-baseline justify-between font-semibold">
        {field.word}
        <span className="text-[12px] font-normal text-ink-3">{field.verdict}</span>
      </h3>
      <dl className="my-1 grid grid-cols-[96px_1fr] gap-x-2 gap-y-0.5">
        {line("last agreed", row.was_agreed ? said(field.agreed) : <span className="text-ink-3">nothing yet</span>)}
        {line(
          "ours",
          said(field.ours),
          mine && `${mine.by || "somebody"}, ${dayAndTime(mine.at)}${mine.reason ? `: ${mine.reason}` : ""}`,
          field.verdict === "we moved" || field.verdict === "both moved",
        )}
        {line(
          "theirs",
          said(field.theirs),
          who?.their_by &&
            field.verdict !== "we moved" &&
            `${who.their_by}${who.their_at ? `, ${dayAndTime(who.their_at)}` : ""}`,
          field.verdict === "they moved" || field.verdict === "both moved",
        )}
      </dl>
      <div className="flex items-center gap-1">
        <Choices row={row} choice={field.choice} proposal={field.proposal} keys={keys} onChoose={onChoose} />
        <Menu label="Throughout" className="!min-h-[26px] !px-2 text-[13px]">
          {WORDS.map(([name, word]) => (
            <MenuItem key={name} needs="handover" onSelect={() => onThroughout(name)}>
              {word} in every row whose {field.word} does not agree
            </MenuItem>
          ))}
        </Menu>
      </div>
      {field.by && <p className="mt-1 text-[12px] text-ink-3">decided by {field.by}</p>}
    </section>
  );
}

/** What a row says as last agreed, ours and theirs; who moved it; and whose is to stand. */
export function Ledger({
  id,
  row,
  compared,
  onChoose,
  onThroughout,
  onKeep,
}: {
  id: number;
  row: SideRow;
  compared: Compared;
  onChoose: (choice: Choice | "", field?: string) => void;
  onThroughout: (choice: Choice, field: string) => void;
  onKeep: () => void;
}) {
  const who = useWho(id, row);
  const stops = compared.stops.filter((s) => s.row === row.key);
  const part = row.kind === "parts" ? compared.parts.find((p) => p.number === row.part && p.ours) : undefined;
  const kept = compared.by_hand.filter(
    (x) => row.verdict === "kept by hand" && x.part === row.part && row.words.endsWith(x.item),
  );
  return (
    <div>
      <h2 className="flex items-center gap-1.5 text-[16px] font-semibold">
        <Mark verdict={row.verdict} /> {row.words}
      </h2>
      <p className="pb-2 text-ink-2">
        <Link
          className="pn text-blue underline"
          to={row.kind === "parts" ? `/part/${row.part}` : `/sheets/${row.part}`}
        >
          {row.part}
        </Link>
        , {row.verdict}
        {row.verdict.startsWith("only") && (row.was_agreed ? ", taken away on the other side" : ", new since")}
      </p>
      {stops.map((stop) => (
        <Mend key={stop.words} stop={stop} row={row} compared={compared} />
      ))}
      {part && <KnownAs key={part.number + part.known_as} id={id} part={part} />}
      {row.fields.map((field) => (
        <FieldBlock
          key={field.name}
          row={row}
          field={field}
          who={who}
          keys={row.fields.length === 1}
          onChoose={(choice) => onChoose(choice, field.name)}
          onThroughout={(choice) => onThroughout(choice, field.name)}
        />
      ))}
      {row.fields.length > 1 && (
        <p className="border-t border-hair pt-2 text-[12px] text-ink-3">
          O, T and L decide all {row.fields.length} fields of the row.
        </p>
      )}
      {row.fields.length === 0 && row.verdict !== "agrees" && (
        <section className="border-t border-hair py-2">
          <dl className="mb-2 grid grid-cols-[96px_1fr] gap-x-2 gap-y-0.5">
            {row.stated.map((s) => (
              <div key={s.word} className="contents">
                <dt className="text-ink-3">{s.word}</dt>
                <dd className="break-words">{said(s.value)}</dd>
              </div>
            ))}
          </dl>
          {row.choices.length > 0 && (
            <>
              <p className="pb-1 text-[12px] text-ink-3">{alone(row)}</p>
              <Choices
                row={row}
                choice={row.choice}
                proposal={row.proposal}
                keys
                onChoose={(choice) => onChoose(choice)}
              />
            </>
          )}
          {row.by && <p className="mt-1 text-[12px] text-ink-3">decided by {row.by}</p>}
          {row.verdict === "only there" && row.kind === "lines" && (
            <p className="pt-2">
              <Button needs="handover" onClick={onKeep}>
                Leave it to them for good …
              </Button>
            </p>
          )}
          {kept.map((x) => (
            <p key={x.id} className="text-ink-2">
              Kept for: {x.reason}{" "}
              <span className="text-[12px] text-ink-3">
                ({x.by}, {dayAndTime(x.at)})
              </span>
            </p>
          ))}
        </section>
      )}
    </div>
  );
}

/** What ours and theirs mean of a row that one side has. */
function alone(row: SideRow): string {
  const here = row.verdict === "only here";
  if (row.choices.length === 2) return here ? "Ours: it is made over there." : "Theirs: it is made here.";
  return here
    ? "Ours: it is added over there. Theirs: it is taken away here."
    : "Ours: it is taken away over there. Theirs: it is added here.";
}
