import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { Menu, MenuItem } from "../kit/Menu";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day as dayText, money, quantity, today } from "../lib/number";
import { useRefusal } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { PartTable } from "../pieces/parts/PartTable";

type Row = Schemas["WorthRow"];
type Worth = Schemas["WorthOut"];

const COLUMNS: DataColumn<Row>[] = [
  {
    key: "part",
    title: "Part",
    width: "110px",
    value: (r) => r.part,
    show: (r) => <span className="pn">{r.part}</span>,
  },
  { key: "description", title: "What it is", width: "minmax(200px,2fr)", value: (r) => r.description },
  { key: "kind", title: "Kind", width: "90px", value: (r) => r.kind, groups: true },
  { key: "class", title: "Class", width: "150px", value: (r) => r.part_class || null, groups: true },
  {
    key: "quantity",
    title: "There",
    width: "130px",
    number: true,
    value: (r) => Number(r.quantity),
    show: (r) => (
      <>
        {quantity(r.quantity)} <span className="text-[12px] text-ink-3">{r.unit}</span>
      </>
    ),
  },
  {
    key: "mean",
    title: "Of one",
    width: "110px",
    number: true,
    value: (r) => (r.mean === null ? null : Number(r.mean)),
    show: (r) => (r.mean === null ? "–" : money(Number(r.mean))),
  },
  {
    key: "value",
    title: "Worth",
    width: "130px",
    number: true,
    total: true,
    costs: true,
    value: (r) => Number(r.value),
    show: (r) => money(Number(r.value)),
  },
];

const numberOf = (r: Row) => r.part;

/** What stock was worth at the end of a day, and its moves for the accountant. */
export function StockScreen() {
  const [day, setDay] = useState(today());
  const [first, setFirst] = useState(`${today().slice(0, 8)}01`);
  const navigate = useNavigate();
  const untrue = useUntrue();
  const say = useSay();
  const refused = useRefusal("standards");
  const worth = useQuery({
    queryKey: ["work-orders", "stock", day],
    queryFn: () => answer(client.GET("/api/shop/stock", { params: { query: { day } } })),
    staleTime: 0,
    placeholderData: (old) => old,
  });
  const keep = useMutation<Worth, Refusal, string>({
    mutationFn: (at) => answer(client.POST("/api/shop/stock/at", { body: { at } })),
    onSuccess: (said) => {
      untrue("work order");
      say(
        said.stock_at === "mean"
          ? "Stock stands at its mean cost from now on."
          : "Stock stands at standard from now on; each part is brought to it when it next moves.",
      );
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  const moves = (shape: string) => window.location.assign(`/api/shop/stock/moves/${shape}?first=${first}&last=${day}`);
  return (
    <ListFrame
      title="Stock value"
      words={`What was there at the end of ${dayText(day)}, and what it was worth.`}
      error={worth.error?.message}
      beside={
        <span className="ml-auto flex items-center gap-3">
          <label className="flex items-center gap-1.5">
            stands at
            <select
              className="field !min-h-[30px] !w-[120px]"
              value={worth.data?.stock_at ?? "mean"}
              title={refused}
              disabled={!!refused}
              onChange={(event) => keep.mutate(event.target.value)}
            >
              <option value="mean">mean cost</option>
              <option value="standard">standard</option>
            </select>
          </label>
          <span className="flex items-center gap-1.5">
            end of
            <DayField
              className="field !min-h-[30px] !w-[120px]"
              aria-label="End of"
              value={day}
              onKeep={(iso) => setDay(iso || today())}
            />
          </span>
          <span className="flex items-center gap-1.5">
            moves since
            <DayField
              className="field !min-h-[30px] !w-[120px]"
              aria-label="Moves since"
              value={first}
              onKeep={(iso) => setFirst(iso || day)}
            />
          </span>
          <Menu label="Moves …">
            <MenuItem onSelect={() => moves("xlsx")}>as workbook</MenuItem>
            <MenuItem onSelect={() => moves("csv")}>as CSV</MenuItem>
          </Menu>
        </span>
      }
    >
      {worth.data?.rows.length === 0 ? (
        <Empty title="Nothing was there" action={<Button onClick={() => setDay(today())}>Today</Button>}>
          Whatever moves in or out of stock is kept with what it was worth; its sum stands here.
        </Empty>
      ) : (
        <PartTable
          numberOf={numberOf}
          name="stock value"
          title="Stock value"
          columns={COLUMNS}
          rows={worth.data?.rows ?? []}
          onOpen={(r) => navigate(`/part/${encodeURIComponent(r.part)}`)}
        />
      )}
    </ListFrame>
  );
}
