import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { Button } from "../../kit/Button";
import { Menu, MenuItem } from "../../kit/Menu";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { type Basis, readTried, type Tried, withTried } from "../../lib/basis";
import { quantity } from "../../lib/number";
import { useMay } from "../../lib/session";
import type { SheetView } from "../../model/wire";
import { useRounds } from "../useRounds";
import { FIELD_WORDS } from "./words";

/** What is only tried: it stands in the address, changes the figures and nothing else, and may go into a round. */
export function WhatIf({
  view,
  basis,
  onBasis,
}: {
  view: SheetView;
  basis: Basis;
  onBasis: (change: Partial<Basis>) => void;
}) {
  const tried = readTried(basis.what_if);
  const may = useMay("rounds");
  const rounds = useRounds(tried.length > 0).filter((r) => r.status === "open");
  const centers = useQueryClient().getQueryData<Schemas["WorkCenterOut"][]>(["work-centers"]) ?? [];
  const say = useSay();
  const navigate = useNavigate();
  const put = useMutation<Schemas["Proposed"], Refusal, number>({
    mutationFn: (round) =>
      answer(
        client.POST("/api/rounds/{round_id}/proposals", {
          params: { path: { round_id: round } },
          body: { items: tried.map((t) => ({ ...named(t, view, centers), reason: `tried on ${view.sheet.part}` })) },
        }),
      ),
    onSuccess: (done) =>
      say(`Proposed in ${done.round.name}.`, {
        act: { label: "To the round", run: () => navigate(`/rounds/${done.round.id}?read=proposals`) },
      }),
    onError: (error) => say(error.message, { bad: true }),
  });
  if (tried.length === 0) return null;
  return (
    <section
      aria-label="What if"
      className="flex shrink-0 flex-wrap items-center gap-2 border-b border-brass bg-brass-tint px-4 py-1.5 text-brass"
    >
      <b>What if</b>
      {tried.map((t) => (
        <span
          key={`${t.table}${t.key}${t.field}`}
          className="flex items-center border border-brass bg-paper pl-2 text-ink"
        >
          <span>
            <span className="pn">{nameOf(t, view, centers)}</span> {FIELD_WORDS[t.field]} <b>{quantity(t.value, 6)}</b>
          </span>
          <button
            type="button"
            className="min-h-[24px] min-w-[24px] hover:text-bad"
            aria-label={`Stop trying ${FIELD_WORDS[t.field]} of ${nameOf(t, view, centers)}`}
            onClick={() => onBasis({ what_if: withTried(basis.what_if, { ...t, value: "" }) })}
          >
            ×
          </button>
        </span>
      ))}
      <span className="text-[12px]">kept nowhere but in this address</span>
      <span className="ml-auto flex gap-2">
        {!may ? (
          <Button needs="rounds" className="!min-h-[26px] !px-2">
            Put into a round …
          </Button>
        ) : (
          <Menu label="Put into a round …" className="!min-h-[26px] !px-2">
            {rounds.map((round) => (
              <MenuItem key={round.id} onSelect={() => put.mutate(round.id)}>
                {round.name}
              </MenuItem>
            ))}
            <MenuItem onSelect={() => navigate("/rounds?new=1")}>Open a round first …</MenuItem>
          </Menu>
        )}
        <button type="button" className="min-h-[24px] underline" onClick={() => onBasis({ what_if: "" })}>
          Stop trying
        </button>
      </span>
    </section>
  );
}

function lineOf(key: string, view: SheetView) {
  return view.lines.find((line) => line.id.replaceAll("-", "") === key.replaceAll("-", ""));
}

/** What is tried, in the words of the sheet. */
function nameOf(t: Tried, view: SheetView, centers: Schemas["WorkCenterOut"][]): string {
  if (t.table === "part") return view.parts.find((p) => String(p.id) === t.key)?.number ?? "a part";
  if (t.table === "work_center") return centers.find((c) => String(c.id) === t.key)?.code ?? "a work center";
  if (t.table === "line") {
    const line = lineOf(t.key, view);
    return line ? `${view.parts[line.child]?.number ?? ""} in ${view.parts[line.parent]?.number ?? ""}` : "a line";
  }
  const step = view.operations.find((o) => o.id.replaceAll("-", "") === t.key.replaceAll("-", ""));
  return step ? `${view.parts[step.parent]?.number ?? ""} operation ${step.sequence}` : "an operation";
}

/** As a proposal: parts by number, work centers by code. */
function named(t: Tried, view: SheetView, centers: Schemas["WorkCenterOut"][]) {
  const key = t.table === "part" || t.table === "work_center" ? nameOf(t, view, centers) : t.key;
  return { table: t.table as Schemas["ProposalIn"]["table"], key, field: t.field, value: t.value };
}
