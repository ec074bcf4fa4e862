import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { Menu, MenuItem } from "../kit/Menu";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { elementColour } from "../lib/elements";
import { day, money, quantity, typed } from "../lib/number";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { Moved, Uncertain } from "./Beneath";
import { OncePaid } from "./OncePaid";
import { QuoteParts } from "./QuoteParts";
import type { Quote } from "./states";

/** One quote: its quantities side by side, from what each costs to what it is offered at. */
export function QuoteScreen() {
  const id = Number(useParams().id);
  const navigate = useNavigate();
  const quote = useQuery({
    queryKey: ["quotes", "one", id],
    queryFn: () => answer(client.GET("/api/quotes/{quote_id}", { params: { path: { quote_id: id } } })),
    staleTime: 0,
  });
  if (quote.error && !quote.data)
    return (
      <Empty title="Quote" action={<Button onClick={() => navigate("/inquiries")}>To the inquiries</Button>}>
        <p role="alert">{quote.error.message}</p>
      </Empty>
    );
  if (!quote.data) return null;
  return <Whole key={quote.data.version} quote={quote.data} />;
}

function Whole({ quote }: { quote: Quote }) {
  const say = useSay();
  const untrue = useUntrue();
  const bad = (error: Refusal) => say(error.problems[0]?.message ?? error.message, { bad: true });
  const path = { quote_id: quote.id };
  const change = useMutation<Quote, Refusal, Omit<Schemas["QuoteIn"], "version">>({
    mutationFn: (more) =>
      answer(client.PATCH("/api/quotes/{quote_id}", { params: { path }, body: { ...more, version: quote.version } })),
    onSuccess: () => untrue("quote"),
    onError: bad,
  });
  const send = useMutation<Quote, Refusal, void>({
    mutationFn: () =>
      answer(client.POST("/api/quotes/{quote_id}/send", { params: { path }, body: { version: quote.version } })),
    onSuccess: () => {
      untrue("quote");
      untrue("inquiry");
      say(`${quote.number} stands as it was sent.`);
    },
    onError: bad,
  });
  const paper = (shape: string) => window.location.assign(`/api/quotes/${quote.id}/paper/${shape}`);
  const draft = quote.why_not.change === null;
  return (
    <div className="h-full overflow-y-auto px-4 pt-3 pb-6">
      <div className="flex items-baseline gap-3 pb-2">
        <h1 className="flex items-baseline gap-2 text-[20px] font-semibold">
          <span className="font-mono text-[17px]">{quote.number}</span> {quote.title}
        </h1>
        <span className="text-ink-2">
          {quote.customer}{" "}
          <Link className="pn text-blue underline" to={`/inquiries/${quote.inquiry}`}>
            {quote.inquiry_number}
          </Link>
        </span>
        <span className={quote.state === "draft" ? "text-brass" : "text-ink-2"}>
          {quote.state === "draft" ? "draft" : `sent ${day(quote.sent_at)} by ${quote.sent_by}`}
        </span>
        <span className="ml-auto flex gap-2">
          <Menu label="Paper …">
            <MenuItem onSelect={() => paper("pdf")}>for the customer, PDF</MenuItem>
            <MenuItem onSelect={() => paper("xlsx")}>for us, a workbook that calculates</MenuItem>
          </Menu>
          {quote.why_not.send === null && (
            <Button needs="buying" look="strong" disabled={send.isPending} onClick={() => send.mutate()}>
              It was sent
            </Button>
          )}
        </span>
      </div>
      <Moved quote={quote} />
      <Costs quote={quote} draft={draft} onChange={(more) => change.mutate(more)} />
      <div className="mt-4 grid grid-cols-2 gap-6">
        <OncePaid quote={quote} draft={draft} onChange={(once) => change.mutate({ once })} />
        <Sent quote={quote} draft={draft} onChange={(more) => change.mutate(more)} />
      </div>
      <Uncertain quote={quote} />
      <QuoteParts quote={quote} />
    </div>
  );
}

type Change = (more: Omit<Schemas["QuoteIn"], "version">) => void;

/** Elements down, quantities across; what is added to each stands where it is typed. */
function Costs({ quote, draft, onChange }: { quote: Quote; draft: boolean; onChange: Change }) {
  const names = Object.keys(quote.words_of).filter((name) =>
    quote.quantities.some((q) => Number(q.elements[name] ?? 0)),
  );
  const columns = {
    gridTemplateColumns: `minmax(180px,1fr) 110px repeat(${quote.quantities.length}, minmax(150px, 220px))`,
  };
  const each = (q: Quote["quantities"][number], sum: string | undefined) => Number(sum ?? 0) / Number(q.quantity);
  const row = "grid items-center gap-x-3 px-3 border-b border-hair min-h-8";
  return (
    <div role="table" aria-label="Costs and prices" className="border-t border-ink bg-paper">
      <div role="row" className={`${row} border-hair-2`} style={columns}>
        <span role="columnheader" className="text-[12px] text-ink-2">
          for one, {quote.currency}
        </span>
        <span role="columnheader" className="text-right text-[12px] text-ink-2">
          added, %
        </span>
        {quote.quantities.map((q) => (
          <span key={q.plan} role="columnheader" className="text-right">
            <b className="font-semibold">{quantity(q.quantity)}</b> × <span className="pn">{q.part}</span>{" "}
            <Link className="pn text-[12px] text-blue underline" to={`/buying/${q.plan_id}`}>
              {q.plan}
            </Link>
          </span>
        ))}
      </div>
      {names.map((name) => (
        <div key={name} role="row" className={row} style={columns}>
          <span role="cell" className="flex items-center gap-2">
            <span className="size-2.5" style={{ background: elementColour(name) }} aria-hidden="true" />
            {quote.words_of[name]}
          </span>
          <span role="cell" className="text-right">
            <Percent
              label={`Added to ${quote.words_of[name]}`}
              value={quote.markups[name] ?? ""}
              off={!draft}
              onKeep={(text) => onChange({ markups: { ...quote.markups, [name]: text } })}
            />
          </span>
          {quote.quantities.map((q) => (
            <span key={q.plan} role="cell" className="text-right">
              {money(each(q, q.elements[name]))}
              {q.marked[name] !== q.elements[name] && (
                <span className="text-[12px] text-brass"> → {money(each(q, q.marked[name]))}</span>
              )}
            </span>
          ))}
        </div>
      ))}
      <div role="row" className={`${row} border-t border-t-ink`} style={columns}>
        <span role="cell" className="font-semibold">
          what one costs us
        </span>
        <span role="cell" className="text-right">
          <Percent
            label="Added over all"
            value={quote.overall_percent === "0" ? "" : quote.overall_percent}
            off={!draft}
            onKeep={(text) => onChange({ overall_percent: text })}
          />
        </span>
        {quote.quantities.map((q) => (
          <span key={q.plan} role="cell" className="text-right font-semibold">
            {money(each(q, q.cost))}
          </span>
        ))}
      </div>
      <div role="row" className={`${row} text-[16px]`} style={columns}>
        <span role="cell" className="font-semibold">
          price of one
        </span>
        <span role="cell" />
        {quote.quantities.map((q) => (
          <span key={q.plan} role="cell" className="text-right font-semibold text-blue">
            {q.each}
          </span>
        ))}
      </div>
      <div role="row" className={row} style={columns}>
        <span role="cell" className="text-ink-2">
          price of all
        </span>
        <span role="cell" />
        {quote.quantities.map((q) => (
          <span key={q.plan} role="cell" className="text-right">
            {money(Number(q.price))}
          </span>
        ))}
      </div>
      <div role="row" className={row} style={columns}>
        <span role="cell" className="text-ink-2">
          margin
        </span>
        <span role="cell" />
        {quote.quantities.map((q) => (
          <span key={q.plan} role="cell" className={`text-right ${Number(q.margin_percent) < 0 ? "text-bad" : ""}`}>
            {Number(q.margin_percent).toFixed(1)} %
          </span>
        ))}
      </div>
    </div>
  );
}

/** A share in percent that is kept on leaving it. */
function Percent({
  label,
  value,
  off,
  onKeep,
}: {
  label: string;
  value: string;
  off: boolean;
  onKeep: (text: string) => void;
}) {
  const [text, setText] = useState(value);
  const may = useMay("buying");
  const keep = () => text.trim() !== value && onKeep(typed(text) || "0");
  return (
    <input
      className="field !min-h-[26px] !w-[76px] text-right"
      aria-label={label}
      inputMode="decimal"
      placeholder="0"
      disabled={off || !may}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") keep();
        if (event.key === "Escape") setText(value);
      }}
    />
  );
}

/** What stands on the paper besides the prices. */
function Sent({ quote, draft, onChange }: { quote: Quote; draft: boolean; onChange: Change }) {
  const [words, setWords] = useState(quote.words);
  const [days, setDays] = useState(String(quote.valid_days));
  const may = useMay("buying") && draft;
  return (
    <section aria-label="On the paper">
      <h2 className="border-b border-ink pb-1 font-semibold">On the paper for the customer</h2>
      <label className="flex items-center gap-2 pt-2">
        holds for
        <input
          className="field !w-[64px] text-right"
          inputMode="numeric"
          disabled={!may}
          value={days}
          onChange={(event) => setDays(event.target.value)}
          onBlur={() => days !== String(quote.valid_days) && onChange({ valid_days: Math.trunc(Number(days)) || 0 })}
        />
        days
      </label>
      <textarea
        className="field mt-2"
        rows={3}
        aria-label="Words on the paper"
        placeholder="delivery, payment, what is assumed"
        disabled={!may}
        value={words}
        onChange={(event) => setWords(event.target.value)}
        onBlur={() => words !== quote.words && onChange({ words })}
      />
    </section>
  );
}
