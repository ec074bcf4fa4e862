import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { KindMark } from "../kit/KindMark";
import { OutLink } from "../kit/OutLink";
import { addressNow } from "../lib/address";
import { answer, client, type Schemas } from "../lib/api";
import { carried, sheetAddress, useBasis } from "../lib/basis";
import { money, quantity } from "../lib/number";
import { BasisBar } from "../pieces/BasisBar";
import { AddBuild } from "../pieces/builds/AddBuild";
import { BuildField } from "../pieces/builds/BuildField";
import { type Build, readBuilds, writeBuilds } from "../pieces/builds/builds";
import { PartTable } from "../pieces/parts/PartTable";

type Row = Schemas["MatrixRow"];

const numberOf = (r: Row) => r.part;

/** Products and options across, parts down; the order adds up what all builds take. */
export function MatrixScreen() {
  const [params, setParams] = useSearchParams();
  const [basis, changeBasis] = useBasis(false);
  const navigate = useNavigate();
  const builds = useMemo(() => readBuilds(params.get("builds") ?? ""), [params]);
  const stock = params.get("stock") !== "0";
  const per = params.get("per") === "builds" ? "needs" : "each";
  const set = (change: Record<string, string>) =>
    setParams(
      () => {
        const next = addressNow();
        for (const [name, value] of Object.entries(change)) value ? next.set(name, value) : next.delete(name);
        return next;
      },
      { replace: true },
    );
  const keep = (next: Build[]) => set({ builds: writeBuilds(next) });
  const found = useQuery({
    queryKey: ["sheets", "matrix", builds, basis.day, basis.drafts, stock],
    queryFn: () =>
      answer(client.POST("/api/sheets/matrix", { body: { builds, day: basis.day, drafts: basis.drafts, stock } })),
    enabled: builds.length > 0,
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const data = builds.length > 0 ? found.data : undefined;
  const ordered = builds.some((b) => b.quantity);
  const taken = data?.rows.some((r) => r.spoken_for > 0);
  const columns = useMemo<DataColumn<Row>[]>(
    () => [
      {
        key: "part",
        title: "Part",
        width: "minmax(110px,140px)",
        value: (r) => r.part,
        show: (r) => <span className="pn">{r.part}</span>,
      },
      { key: "description", title: "Description", width: "minmax(140px,1fr)", value: (r) => r.description },
      {
        key: "kind",
        title: "Kind",
        width: "88px",
        groups: true,
        value: (r) => r.kind,
        show: (r) => <KindMark kind={r.kind} />,
      },
      { key: "unit", title: "Unit", width: "40px", groups: true, value: (r) => r.unit },
      {
        key: "supplier",
        title: "Supplier",
        width: "120px",
        groups: true,
        off: true,
        value: (r) => r.supplier || null,
      },
      {
        key: "link",
        title: "Where it is bought",
        width: "96px",
        off: true,
        value: (r) => r.supplier_link || null,
        show: (r) => <OutLink to={r.supplier_link}>{r.supplier || "link"}</OutLink>,
      },
      { key: "size", title: "Case or size", width: "96px", groups: true, off: true, value: (r) => r.size_mm || null },
      { key: "days", title: "Days", width: "44px", number: true, off: true, value: (r) => r.lead_time_days },
      ...(data?.builds ?? []).map(
        (b, i): DataColumn<Row> => ({
          key: `build ${i}`,
          title: `${per === "needs" && b.quantity ? `${quantity(b.quantity)} ` : ""}${b.part}${b.options.length ? ` ${b.options.join(" ")}` : ""}`,
          width: "minmax(84px,112px)",
          number: true,
          value: (r) => r[per][i] || null,
          show: (r) => (r[per][i] ? quantity(r[per][i], 4) : ""),
        }),
      ),
      ...(ordered
        ? [
            {
              key: "total",
              title: "Needed",
              width: "84px",
              number: true,
              value: (r: Row) => r.total,
              show: (r: Row) => quantity(r.total, 4),
            },
            ...(stock
              ? [
                  {
                    key: "on_hand",
                    title: "On hand",
                    width: "74px",
                    number: true,
                    value: (r: Row) => r.on_hand,
                    show: (r: Row) => quantity(r.on_hand, 4),
                  },
                  ...(taken
                    ? [
                        {
                          key: "spoken_for",
                          title: "Spoken for",
                          width: "74px",
                          number: true,
                          value: (r: Row) => r.spoken_for,
                          show: (r: Row) => (r.spoken_for ? quantity(r.spoken_for, 4) : ""),
                        },
                      ]
                    : []),
                  {
                    key: "on_order",
                    title: "On order",
                    width: "74px",
                    number: true,
                    value: (r: Row) => r.on_order,
                    show: (r: Row) => quantity(r.on_order, 4),
                  },
                ]
              : []),
            {
              key: "order",
              title: "Order",
              width: "84px",
              number: true,
              value: (r: Row) => r.order,
              show: (r: Row) => <b className="font-semibold">{quantity(r.order, 4)}</b>,
            },
            {
              key: "value",
              title: `Value, ${data?.currency ?? ""}`,
              width: "96px",
              number: true,
              total: true,
              costs: true,
              value: (r: Row) => (r.kind === "made" ? null : r.order * (r.unit_cost ?? 0)),
              show: (r: Row) => (r.kind === "made" ? "" : money(r.order * (r.unit_cost ?? 0))),
            },
          ]
        : []),
    ],
    [data, per, ordered, stock, taken],
  );
  const top = data?.builds[0];
  return (
    <div className="flex h-full flex-col">
      {data && top && (
        <BasisBar
          unit=""
          currency={data.currency}
          options={[]}
          asOf={data.as_of}
          quantity={false}
          basis={basis}
          onChange={changeBasis}
        />
      )}
      <div className="flex flex-wrap items-center gap-2 px-4 pt-3 pb-2">
        <h1 className="mr-3 text-[20px] font-semibold">Matrix</h1>
        {builds.map((build, i) => (
          <BuildField
            // biome-ignore lint/suspicious/noArrayIndexKey: the same product may stand there twice
            key={`${build.part}${i}`}
            build={build}
            options={data?.builds[i]?.part === build.part ? data.builds[i].known : []}
            onKeep={(next) => keep(builds.map((b, at) => (at === i ? next : b)))}
            onRemove={() => keep(builds.filter((_, at) => at !== i))}
          />
        ))}
        <AddBuild words="+ a product" onAdd={(part) => keep([...builds, { part, quantity: "", options: [] }])} />
      </div>
      {found.error && (
        <p role="alert" className="px-4 pb-2 text-bad">
          {found.error.message}
          {!basis.drafts && (
            <Button look="quiet" className="!min-h-0" onClick={() => changeBasis({ drafts: true })}>
              Count drafts, too
            </Button>
          )}
        </p>
      )}
      {data && data.rows.length === 0 && (
        <p className="px-4 pb-2 text-ink-2">
          {data.builds.map((b) => b.part).join(", ")} {data.builds.length === 1 ? "takes" : "take"} no part on this day:
          every line is a note, as needed, not fitted, or under an option that is not chosen.
        </p>
      )}
      {builds.length === 0 ? (
        <Empty title="No product stands in the matrix yet">
          Add products, their options and how many of each are to be built. Parts stand beneath one another, and the
          order adds them up.
        </Empty>
      ) : (
        data && (
          <div className="flex min-h-0 flex-1 flex-col px-4 pb-3">
            <PartTable
              numberOf={numberOf}
              name="matrix"
              title={`Matrix of ${data.builds.map((b) => b.part).join(", ")}`}
              columns={columns}
              rows={data.rows}
              onOpen={(r) =>
                navigate(
                  r.kind === "made"
                    ? sheetAddress(r.part, basis)
                    : carried(`/where-used/${encodeURIComponent(r.part)}`, basis),
                )
              }
              beside={
                <>
                  {ordered && (
                    <label
                      className="flex items-center gap-1.5 text-ink-2"
                      title="The order is what is short of the need, in whole cases, minimums and multiples of each part. Each part is set against its own stock: what a made part takes is reckoned for its whole need."
                    >
                      <input type="checkbox" checked={stock} onChange={() => set({ stock: stock ? "0" : "" })} />
                      less what is on hand and on order, part by part
                    </label>
                  )}
                  <select
                    className="field !min-h-[26px] !w-auto"
                    aria-label="Cells hold"
                    value={per}
                    onChange={(event) => set({ per: event.target.value === "needs" ? "builds" : "" })}
                  >
                    <option value="each">for one of each</option>
                    <option value="needs">for the builds, each a job</option>
                  </select>
                  <Button
                    className="!min-h-[26px]"
                    title="Each product as a list or a file of its own"
                    onClick={() => {
                      const products = new URLSearchParams(data.builds.map((b) => ["part", b.part]));
                      navigate(carried(`/lists?${products}`, basis));
                    }}
                  >
                    Lists of them …
                  </Button>
                </>
              }
            />
          </div>
        )
      )}
    </div>
  );
}
