import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import type { DataColumn } from "../kit/dataColumns";
import { addressNow } from "../lib/address";
import { answer, client, type Schemas } from "../lib/api";
import { useBasis } from "../lib/basis";
import { quantity } from "../lib/number";
import { type RowOf, rowsOf } from "../model/wire";
import { BasisBar } from "../pieces/BasisBar";
import { PartTable } from "../pieces/parts/PartTable";

type User = RowOf<Schemas["UserParts"]>;
type Use = RowOf<Schemas["UseTable"]>;
/** What is found, laid out in rows. */
type Found = Omit<Schemas["WhereUsed"], "parts" | "uses"> & { parts: User[]; uses: Use[] };

/** One row of any reading: a user of the part. */
interface Row {
  key: string;
  user: User;
  level: number;
  item: number | null;
  /** How much of what it takes stands in one of it, by its own line; null where only the sum is shown. */
  per: number | null;
  unit: string;
}

const READINGS = {
  levels: "all levels, indented",
  direct: "directly",
  all: "all levels, summed",
  tops: "tops only",
} as const;
type Reading = keyof typeof READINGS;

const MOST = 20_000;

/** The way up from the part, each line a row, its users beneath it. */
function indented(found: Found): Row[] {
  const users = new Map<number, Use[]>();
  for (const use of found.uses) {
    const held = users.get(use.takes);
    held ? held.push(use) : users.set(use.takes, [use]);
  }
  const rows: Row[] = [];
  const walk = (part: number, level: number, path: string) => {
    for (const use of users.get(part) ?? []) {
      if (rows.length >= MOST) return;
      const key = `${path}/${use.line}`;
      rows.push({
        key,
        user: found.parts[use.user]!,
        level,
        item: use.item,
        per: use.by_product ? -use.quantity : use.quantity,
        unit: found.parts[part]!.unit,
      });
      walk(use.user, level + 1, key);
    }
  };
  walk(found.part, 1, "");
  return rows;
}

function readAs(found: Found, reading: Reading): Row[] {
  if (reading === "levels") return indented(found);
  if (reading === "direct")
    return found.uses
      .filter((use) => use.takes === found.part)
      .map((use) => ({
        key: use.line,
        user: found.parts[use.user]!,
        level: 1,
        item: use.item,
        per: use.by_product ? -use.quantity : use.quantity,
        unit: found.unit,
      }));
  return found.parts
    .filter((p, i) => i !== found.part && (reading === "all" || p.top))
    .map((p) => ({ key: p.number, user: p, level: p.levels, item: null, per: null, unit: found.unit }));
}

const numberOf = (r: Row) => r.user.number;

/** Where a part is used, with quantities, up to the tops. */
export function WhereUsedScreen() {
  const { number = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const [basis, changeBasis] = useBasis(false);
  const navigate = useNavigate();
  const asked = (params.get("read") as Reading | null) ?? "levels";
  const query = { day: basis.day, options: basis.options, drafts: basis.drafts };
  const found = useQuery({
    queryKey: ["sheets", "where-used", number, query],
    queryFn: async (): Promise<Found> => {
      const way = await answer(client.GET("/api/sheets/where-used", { params: { query: { part: number, ...query } } }));
      return { ...way, parts: rowsOf(way.parts), uses: rowsOf(way.uses) };
    },
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const data = found.data;
  // Where the lines are too many to be read level by level, the sums stand in their place.
  const reading = data && !data.whole && asked === "levels" ? "all" : asked;
  const rows = useMemo(() => (data ? readAs(data, reading) : []), [data, reading]);
  const columns = useMemo<DataColumn<Row>[]>(() => {
    const lines = reading === "levels" || reading === "direct";
    return [
      {
        key: "user",
        title: "Used on",
        width: "minmax(150px,240px)",
        value: (r) => r.user.number,
        show: (r) => (
          <span className="pn" style={{ paddingLeft: reading === "levels" ? (r.level - 1) * 16 : 0 }}>
            {r.user.number}
          </span>
        ),
      },
      { key: "description", title: "Description", width: "minmax(160px,1fr)", value: (r) => r.user.description },
      { key: "revision", title: "Sheet", width: "120px", value: (r) => r.user.revision },
      {
        key: "level",
        title: reading === "levels" ? "Level" : "Levels up",
        width: "76px",
        number: true,
        groups: true,
        value: (r) => r.level,
      },
      ...(lines
        ? ([
            { key: "item", title: "Item", width: "60px", number: true, value: (r) => r.item },
            {
              key: "per",
              title: "By this line, in one",
              width: "150px",
              number: true,
              value: (r) => r.per,
              show: (r) => (
                <>
                  {quantity(r.per, 6)} <span className="text-[12px] text-ink-3">{r.unit}</span>
                </>
              ),
            },
          ] satisfies DataColumn<Row>[])
        : []),
      {
        key: "taken",
        title: `${number} in one, all ways`,
        width: "170px",
        number: true,
        value: (r) => r.user.taken,
        show: (r) => (
          <>
            {quantity(r.user.taken, 6)} <span className="text-[12px] text-ink-3">{data?.unit}</span>
          </>
        ),
      },
      { key: "top", title: "Top", width: "60px", groups: true, value: (r) => (r.user.top ? "top" : "") },
    ];
  }, [reading, number, data?.unit]);
  return (
    <div className="flex h-full flex-col">
      {data && (
        <BasisBar
          unit={data.unit}
          currency={data.currency}
          options={data.options}
          asOf={data.as_of}
          quantity={false}
          basis={basis}
          onChange={changeBasis}
        />
      )}
      <h1 className="px-4 pt-3 pb-2 text-[20px] font-semibold">
        Where <span className="font-mono tracking-tight">{number}</span> is used
        {data && <span className="ml-3 font-normal text-[15px] text-ink-2">{data.description}</span>}
      </h1>
      {found.error && (
        <p role="alert" className="px-4 text-bad">
          {found.error.message}
        </p>
      )}
      {data && (
        <div className="flex min-h-0 flex-1 flex-col px-4 pb-3">
          {data.uses.length === 0 ? (
            <p className="text-ink-2">No sheet in force on this day takes it.</p>
          ) : (
            <PartTable
              numberOf={numberOf}
              key={reading}
              name={`where-used ${reading}`}
              title={`Where ${number} is used`}
              columns={columns}
              rows={rows}
              sort={reading === "levels" ? undefined : { key: "taken", down: true }}
              onOpen={(r) => navigate(`/sheets/${encodeURIComponent(r.user.number)}?sheet=${r.user.sheet ?? ""}`)}
              beside={
                <>
                  <select
                    className="field !min-h-[26px] !w-auto"
                    aria-label="Read as"
                    value={reading}
                    onChange={(event) =>
                      setParams(
                        () => {
                          const next = addressNow();
                          next.set("read", event.target.value);
                          return next;
                        },
                        { replace: true },
                      )
                    }
                  >
                    {Object.entries(READINGS)
                      .filter(([value]) => data.whole || value !== "levels")
                      .map(([value, words]) => (
                        <option key={value} value={value}>
                          {words}
                        </option>
                      ))}
                  </select>
                  <Button
                    className="!min-h-[26px] !px-2"
                    onClick={() => navigate(`/exchange?old=${encodeURIComponent(number)}`)}
                  >
                    Exchange it …
                  </Button>
                </>
              }
            />
          )}
        </div>
      )}
    </div>
  );
}
