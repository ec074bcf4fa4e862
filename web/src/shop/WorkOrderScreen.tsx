import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Button } from "../kit/Button";
import { type Command, useCommands } from "../kit/commands";
import { Empty } from "../kit/Empty";
import { Menu, MenuItem } from "../kit/Menu";
import { pressed } from "../kit/pressed";
import { Strokes } from "../kit/Strokes";
import { answer, client } from "../lib/api";
import { day, dayAndTime, money, quantity } from "../lib/number";
import { useMay, useSeesCosts } from "../lib/session";
import { CameTo } from "./CameTo";
import { ChangePanel, LinkPanel, ReasonPanel, SplitPanel } from "./ChangePanel";
import { Components } from "./Components";
import { Ledger } from "./Ledger";
import { type OpenForm, Operations } from "./Operations";
import { SoFar } from "./SoFar";
import { type Order, STATES, useAct } from "./states";

/** One order: what is to be done, what it takes, what was done, and what it came to. */
export function WorkOrderScreen() {
  const id = Number(useParams().id);
  const navigate = useNavigate();
  const order = useQuery({
    queryKey: ["work-orders", "one", id],
    queryFn: () => answer(client.GET("/api/shop/orders/{order_id}", { params: { path: { order_id: id } } })),
    staleTime: 0,
  });
  if (order.error && !order.data)
    return (
      <Empty title="Work order" action={<Button onClick={() => navigate("/shop")}>To the orders</Button>}>
        <p role="alert">{order.error.message}</p>
      </Empty>
    );
  if (!order.data) return null;
  return <Whole order={order.data} />;
}

type Asked = "cancel" | "change" | "close" | "link" | "sheet" | "split";

function Whole({ order }: { order: Order }) {
  const [asked, setAsked] = useState<Asked | null>(null);
  const [open, setOpen] = useState<OpenForm>(null);
  const screen = useRef<HTMLDivElement>(null);
  useEffect(() => screen.current?.focus(), []);
  const may = useMay("shop reports");
  const costs = useSeesCosts();
  const path = { order_id: order.id };
  const step = (action: "release" | "close", reason = "") =>
    answer(
      client.POST(`/api/shop/orders/{order_id}/${action}`, {
        params: { path },
        body: { version: order.version, reason },
      }),
    );
  const release = useAct<void>(() => step("release"));
  const close = useAct<void>(() => step("close"));
  const can = (action: keyof Order["why_not"]) => order.why_not[action] === null;
  const paper = (shape: string) => window.open(`/api/shop/orders/${order.id}/paper/${shape}`, "_blank", "noreferrer");
  const next =
    order.stages.find((s) => Number(s.came) > Number(s.good) + Number(s.scrapped)) ??
    order.stages.find((s) => Number(s.planned) > Number(s.good) + Number(s.scrapped));
  const commands: Command[] = [
    {
      keys: "R",
      words: "report the next operation",
      run: next && may && can("report") ? () => setOpen([next.sequence, "report"]) : undefined,
    },
    {
      keys: "I",
      words: "issue what it takes",
      run: () => screen.current?.querySelector<HTMLElement>("[aria-label^='Issue of']")?.focus(),
    },
    {
      keys: "Ctrl Enter",
      words: "release a planned order, close one that is done",
      run: can("release")
        ? () => release.mutate()
        : order.state === "done" && can("close")
          ? () => close.mutate()
          : undefined,
    },
    { keys: "P", words: "its cards, to be printed", run: order.stages.length ? () => paper("cards") : undefined },
  ];
  useCommands(commands);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys of the screen, wherever on it one stands
    <div
      ref={screen}
      tabIndex={-1}
      className="h-full overflow-y-auto px-4 pt-3 pb-8 outline-none"
      onKeyDown={(event) => pressed(event, commands, () => {})}
    >
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 pb-1">
        <h1 className="flex items-baseline gap-2 text-[20px] font-semibold">
          <span className="font-mono text-[17px]">{order.number}</span>
          {quantity(order.quantity)} {order.unit} of{" "}
          <Link className="pn text-blue hover:underline" to={`/sheets/${encodeURIComponent(order.part)}`}>
            {order.part}
          </Link>
        </h1>
        <span className="text-ink-2">{order.description}</span>
        <span className={`font-semibold ${order.state === "planned" ? "text-brass" : "text-ink"}`}>
          {STATES[order.state]}
        </span>
        <span className="ml-auto flex gap-2">
          {order.state !== "planned" && order.state !== "cancelled" && (
            <Menu label="Papers …">
              <MenuItem onSelect={() => paper("cards")}>Cards, one for each operation</MenuItem>
              <MenuItem onSelect={() => paper("traveller")}>Traveller, all on one</MenuItem>
              <MenuItem onSelect={() => paper("requisition")}>Requisition for the store</MenuItem>
              <MenuItem onSelect={() => paper("labels")}>Labels</MenuItem>
              {order.stages.some((s) => Number(s.sent) > 0) && (
                <MenuItem onSelect={() => paper("slips")}>Slips for work outside</MenuItem>
              )}
            </Menu>
          )}
          {(can("change") || can("cancel")) && (
            <Menu label="Change …">
              {can("change") && <MenuItem onSelect={() => setAsked("change")}>Quantity or day</MenuItem>}
              {can("change") && <MenuItem onSelect={() => setAsked("split")}>Split in two</MenuItem>}
              <MenuItem onSelect={() => setAsked("link")}>Made for another order</MenuItem>
              {can("cancel") && <MenuItem onSelect={() => setAsked("cancel")}>Cancel it</MenuItem>}
            </Menu>
          )}
          {can("close") && order.state !== "done" && (
            <Button needs="work orders" onClick={() => setAsked("close")}>
              Close it short …
            </Button>
          )}
          {can("release") && (
            <Button needs="work orders" look="strong" disabled={release.isPending} onClick={() => release.mutate()}>
              Release
            </Button>
          )}
          {can("close") && order.state === "done" && (
            <Button needs="work orders" look="strong" disabled={close.isPending} onClick={() => close.mutate()}>
              Close the order
            </Button>
          )}
        </span>
      </div>
      <dl className="flex flex-wrap items-baseline gap-x-6 gap-y-1 border-b border-hair-2 pb-2 [&>div]:flex [&>div]:gap-1.5 [&_dt]:text-ink-2">
        <Fact label="wanted">
          <span className={order.late ? "font-semibold text-bad" : ""}>
            {order.wanted ? day(order.wanted) : "as soon as may be"}
            {order.late > 0 && `, ${order.late} d late`}
          </span>
        </Fact>
        {order.starts && <Fact label="begins">{dayAndTime(order.starts)}</Fact>}
        {order.operations > 0 && (
          <Fact label="operations">
            <Strokes done={order.done} of={order.operations} what="operations" />
          </Fact>
        )}
        <Fact label="good">{quantity(order.good)}</Fact>
        {Number(order.scrapped) > 0 && <Fact label="scrapped">{quantity(order.scrapped)}</Fact>}
        {costs && order.expected !== null && <Fact label="expected">{money(Number(order.expected))}</Fact>}
        {costs && order.expected !== null && <Fact label="spent">{money(Number(order.spent))}</Fact>}
        {costs && order.rest !== null && Number(order.rest) > 0 && (
          <Fact label="still to come, by plan">{money(Number(order.rest))}</Fact>
        )}
        {order.sheet && (
          <Fact label="sheet">
            <Link
              className="text-blue underline"
              to={`/sheets/${encodeURIComponent(order.part)}?sheet=${order.sheet_id}`}
            >
              {order.sheet}
            </Link>
          </Fact>
        )}
        {order.options.length > 0 && <Fact label="options">{order.options.join(", ")}</Fact>}
        {order.parent && (
          <Fact label="for">
            <Link className="pn text-blue underline" to={`/shop/orders/${order.parent_id}`}>
              {order.parent}
            </Link>
          </Fact>
        )}
        {order.state === "cancelled" && <Fact label="cancelled">{`${order.closed_by}: ${order.reason}`}</Fact>}
      </dl>
      {order.behind && (
        <p className="flex items-center gap-3 border-b border-hair bg-sunk px-2 py-1.5">
          <b>{order.behind}.</b> The order keeps the sheet it was released with
          {can("change") ? "" : ", since it has begun"}.
          {order.behind_id && (
            <Link
              className="text-blue underline"
              to={`/sheets/${encodeURIComponent(order.part)}/compare?left=${order.sheet_id}&right=${order.behind_id}`}
            >
              What differs
            </Link>
          )}
          {can("change") && (
            <Button needs="work orders" look="quiet" onClick={() => setAsked("sheet")}>
              Take the new one over …
            </Button>
          )}
        </p>
      )}
      {order.note && <p className="pt-2 text-ink-2">{order.note}</p>}
      {order.state === "planned" && order.stages.length === 0 && (
        <p className="py-3 text-ink-2">
          Releasing fixes its sheet, quantity, options and expected cost; then its operations and components stand here,
          and what it takes is spoken for.
        </p>
      )}
      {order.nested.length > 0 && <Nested order={order} />}
      {order.stages.length > 0 && (
        <Operations
          order={order}
          open={open}
          onOpen={(form) => {
            setOpen(form);
            // What had the keys is gone.
            if (!form) screen.current?.focus();
          }}
        />
      )}
      {order.components.length > 0 && <Components order={order} />}
      {costs &&
        order.came_to &&
        order.entries.length > 0 &&
        (order.state === "closed" || order.state === "done" ? (
          <CameTo order={order} said={order.came_to} />
        ) : (
          <SoFar order={order} said={order.came_to} />
        ))}
      {order.entries.length > 0 && <Ledger order={order} />}
      {asked === "change" && <ChangePanel order={order} onClose={() => setAsked(null)} />}
      {asked === "link" && <LinkPanel order={order} onClose={() => setAsked(null)} />}
      {asked === "split" && <SplitPanel order={order} onClose={() => setAsked(null)} />}
      {(asked === "cancel" || asked === "close" || asked === "sheet") && (
        <ReasonPanel order={order} action={asked} onClose={() => setAsked(null)} />
      )}
    </div>
  );
}

function Fact({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div>
      <dt>{label}</dt>
      <dd>{children}</dd>
    </div>
  );
}

function Nested({ order }: { order: Order }) {
  return (
    <section aria-label="Orders for what it takes" className="pt-3">
      <h2 className="font-semibold">Orders for what it takes</h2>
      <ul>
        {order.nested.map((o) => (
          <li key={o.id} className="flex items-center gap-4 border-b border-hair py-1">
            <Link className="pn w-[80px] text-blue underline" to={`/shop/orders/${o.id}`}>
              {o.number}
            </Link>
            <span className="w-[90px] text-right">
              {quantity(o.quantity)} {o.unit}
            </span>
            <span className="pn w-[100px]">{o.part}</span>
            <span className="w-[240px] truncate text-ink-2">{o.description}</span>
            <span className="w-[130px]">{STATES[o.state]}</span>
            <span className={o.late ? "text-bad" : "text-ink-2"}>{o.wanted && `wanted ${day(o.wanted)}`}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
