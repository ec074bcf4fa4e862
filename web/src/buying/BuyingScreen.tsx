import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { Word } from "../kit/Word";
import { answer, client } from "../lib/api";
import { day, money, quantity } from "../lib/number";
import { PlanPanel } from "./PlanPanel";
import { QuotesOf } from "./QuotesOf";
import { RatesPanel } from "./RatesPanel";
import type { PlanRow } from "./usePlan";

const builds = (p: PlanRow) => p.builds.map((b) => `${quantity(b.quantity)} × ${b.part}`).join(", ");
const number = (text: string | null) => (text === null ? null : Number(text));
const saved = (p: PlanRow) => {
  const apart = number(p.line_by_line);
  return apart === null || p.total === null ? null : Math.max(0, apart - Number(p.total));
};

const COLUMNS: DataColumn<PlanRow>[] = [
  {
    key: "number",
    title: "Number",
    width: "80px",
    value: (p) => p.number,
    show: (p) => <span className="pn">{p.number}</span>,
  },
  { key: "title", title: "What it is for", width: "minmax(150px,1.3fr)", value: (p) => p.title },
  { key: "inquiry", title: "Inquiry", width: "80px", value: (p) => p.inquiry_number || null, groups: true },
  { key: "builds", title: "Builds", width: "minmax(150px,1.4fr)", value: builds },
  {
    key: "by",
    title: "Material by",
    width: "110px",
    value: (p) => p.builds.flatMap((b) => (b.by ? [b.by] : [])).sort()[0] ?? null,
    show: (p) => day(p.builds.flatMap((b) => (b.by ? [b.by] : [])).sort()[0]),
  },
  {
    key: "total",
    title: "Total",
    width: "110px",
    value: (p) => number(p.total),
    show: (p) => (p.total === null ? "not planned" : money(Number(p.total))),
    number: true,
  },
  {
    key: "proof",
    title: "From the cheapest",
    width: "120px",
    value: (p) => (p.total === null ? null : Math.max(0, Number(p.total) - Number(p.bound))),
    show: (p) =>
      p.total === null
        ? ""
        : Number(p.total) - Number(p.bound) < 0.005
          ? "proven"
          : `≤ ${money(Number(p.total) - Number(p.bound))}`,
    number: true,
  },
  {
    key: "saved",
    title: "Saved",
    width: "90px",
    value: saved,
    show: (p) => (saved(p) === null ? "" : money(saved(p))),
    number: true,
  },
  { key: "suppliers", title: "Suppliers", width: "80px", value: (p) => p.suppliers || null, number: true },
  {
    key: "uncovered",
    title: "Not covered",
    width: "90px",
    value: (p) => p.uncovered || null,
    show: (p) => (p.uncovered ? <b className="font-semibold text-bad">{p.uncovered}</b> : ""),
    number: true,
  },
];

/** All buy plans, or those of one inquiry, quantity beside quantity. */
export function BuyingScreen() {
  const [params, setParams] = useSearchParams();
  const [rates, setRates] = useState(false);
  const navigate = useNavigate();
  const inquiry = Number(params.get("inquiry")) || undefined;
  const list = useQuery({
    queryKey: ["buying", "plans", inquiry ?? 0],
    queryFn: () => answer(client.GET("/api/buying/plans", { params: { query: { inquiry } } })),
    staleTime: 0,
    // Plans of an inquiry are made one after another.
    refetchInterval: (query) => (query.state.data?.some((p) => p.total === null) ? 1500 : false),
  });
  const open = (on: boolean) => setParams(on ? { new: "1" } : {}, { replace: true });
  const button = (
    <Button needs="buying" look="strong" onClick={() => open(true)}>
      New buy plan
    </Button>
  );
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">
          <Word of="buy plan">Buying</Word>
        </h1>
        <p className="text-ink-2">
          {inquiry ? (
            <>
              Plans of one inquiry, quantity beside quantity.{" "}
              <Link className="text-blue underline" to="/buying">
                All plans
              </Link>
            </>
          ) : (
            "What builds take, bought the cheapest way over all of it at once."
          )}
        </p>
        <span className="ml-auto flex gap-2">
          <Button onClick={() => setRates(true)}>Rates of currencies</Button>
          {button}
        </span>
      </div>
      {inquiry && <QuotesOf inquiry={inquiry} />}
      {list.error && (
        <p role="alert" className="text-bad">
          {list.error.message}
        </p>
      )}
      {list.data?.length === 0 && (
        <Empty title="No buy plan yet" action={button}>
          Say what is built and how many. The plan takes what is in stock and on order, and buys the rest where all of
          it together costs least.
        </Empty>
      )}
      {list.data && list.data.length > 0 && (
        <DataTable
          name="buy plans"
          title="Buy plans"
          columns={COLUMNS}
          rows={list.data}
          onOpen={(p) => navigate(`/buying/${p.id}`)}
        />
      )}
      {params.get("new") === "1" && <PlanPanel plan={null} onClose={() => open(false)} />}
      {rates && <RatesPanel onClose={() => setRates(false)} />}
    </div>
  );
}
