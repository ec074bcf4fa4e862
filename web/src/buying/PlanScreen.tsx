import { useEffect, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { useCommands } from "../kit/commands";
import { download } from "../kit/download";
import { Empty } from "../kit/Empty";
import { JobProgress } from "../kit/JobProgress";
import { pressed } from "../kit/pressed";
import { useSay } from "../kit/Says";
import { addressNow } from "../lib/address";
import { countedNeeds, NEED_FILTERS, type NeedFilter, PLAN_AS_FILE, shownNeeds } from "../model/plan";
import { OfferPanel } from "../pieces/offers/OfferPanel";
import { planCommands } from "./commands";
import { LimitsPanel } from "./LimitsPanel";
import { NeedAside } from "./NeedAside";
import { NeedGrid } from "./NeedGrid";
import { inOrder } from "./OfferLedger";
import { type Opened, PlanHead } from "./PlanHead";
import { PlanPanel } from "./PlanPanel";
import { RequestsPanel } from "./RequestsPanel";
import { SupplierStrip } from "./SupplierStrip";
import { type Plan, useNeed, usePlan, usePlanVerbs } from "./usePlan";

/** One buy plan: its needs, and beside the one at the cursor its offers. */
export function PlanScreen() {
  const id = Number(useParams().id);
  const plan = usePlan(id);
  if (plan.error && !plan.data)
    return (
      <Empty title="Buy plan">
        <p role="alert">{plan.error.message}</p>
      </Empty>
    );
  if (!plan.data)
    return (
      <p role="status" className="p-4 text-ink-2">
        Reading the plan …
      </p>
    );
  return <Surface key={id} plan={plan.data} />;
}

function Surface({ plan }: { plan: Plan }) {
  const [params, setParams] = useSearchParams();
  const [opened, setOpened] = useState<Opened>(params.get("open") === "requests" ? "requests" : null);
  const [words, setWords] = useState("");
  const tell = useSay();
  const verbs = usePlanVerbs(plan);
  const asked = (params.get("left") ?? "all") as NeedFilter;
  const filter = asked in NEED_FILTERS ? asked : "all";
  const shown = shownNeeds(plan.needs, filter, words);
  // By its part: a plan made anew has new rows for the same needs, in another order, and whoever stands on one stays on it.
  const [wanted, setWanted] = useState(params.get("part"));
  const at = plan.needs.find((n) => n.part === wanted) ?? shown[0] ?? plan.needs[0];
  useEffect(() => {
    if (wanted === null && at) setWanted(at.part);
  }, [wanted, at]);
  const whole = useNeed(at?.id).data;
  const say = (name: string, value: string) => {
    const next = addressNow();
    if (value) next.set(name, value);
    else next.delete(name);
    setParams(next, { replace: true });
  };
  const go = (id: number) => {
    const to = plan.needs.find((n) => n.id === id);
    if (!to) return;
    setWanted(to.part);
    say("part", to.part);
  };
  const takeAt = (index: number) => {
    const offer = whole && whole.id === at?.id ? inOrder(whole.looked_at)[index] : undefined;
    if (offer && offer.alone !== null) verbs.hold.mutate({ offer: offer.offer });
    else if (offer) tell(`${offer.supplier} cannot cover this need: ${offer.ruled_out || "too few"}.`);
  };
  const commands = planCommands({
    next: () => {
      const open = plan.needs.filter((n) => n.reason);
      const next = open[(open.findIndex((n) => n.id === at?.id) + 1) % Math.max(1, open.length)];
      if (next) go(next.id);
      else tell("Every need is covered.");
    },
    again: () => verbs.again.mutate(),
    builds: () => setOpened("builds"),
    limits: () => setOpened("limits"),
    offer: () => at && setOpened("offer"),
    ask: () => setOpened("requests"),
    letGo: () => {
      const held = at?.bought.find((b) => b.by_hand);
      if (held) verbs.letGo.mutate(held.offer);
      else tell("Nothing was taken by hand here.");
    },
    find: () => document.querySelector<HTMLElement>("input[aria-label='Find a need']")?.focus(),
    leave: () =>
      download("/api/sheets/table/xlsx", {
        title: `${plan.number} ${plan.title}`,
        columns: PLAN_AS_FILE.map(({ title, number }) => ({ title, number: !!number, total: title === "Cost" })),
        rows: shown.map((n) => PLAN_AS_FILE.map((c) => c.value(n))),
      }).catch((error: Error) => tell(error.message, { bad: true })),
  });
  useCommands(commands);
  const close = () => {
    setOpened(null);
    say("open", "");
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys of the screen, wherever on it one stands
    <div className="flex h-full flex-col gap-2 px-4 pt-2" onKeyDown={(event) => pressed(event, commands, takeAt)}>
      <PlanHead plan={plan} onOpen={setOpened} onAgain={() => verbs.again.mutate()} />
      {plan.job && <JobProgress job={plan.job} stale={["buying"]} />}
      {!plan.job && plan.failed && (
        <p role="alert" className="text-bad">
          {plan.failed}
        </p>
      )}
      {plan.lost.map((lost) => (
        <p key={lost} role="alert" className="text-bad">
          Not held any more: {lost}.
        </p>
      ))}
      <SupplierStrip plan={plan} />
      {plan.needs.length > 0 && (
        <>
          <Filters plan={plan} filter={filter} onFilter={(f) => say("left", f)} words={words} onWords={setWords} />
          <div className="-mr-4 flex min-h-0 flex-1">
            <div className="flex min-w-0 flex-1 flex-col">
              <NeedGrid needs={shown} total={plan.needs.length} cursor={at?.id ?? null} onCursor={go} />
            </div>
            {at && (
              <NeedAside
                need={at}
                held={plan.held}
                onTake={(offer, quantity) => verbs.hold.mutate({ offer: offer.offer, quantity })}
                onLetGo={(offer) => verbs.letGo.mutate(offer.offer)}
                onNewOffer={() => setOpened("offer")}
                onAllow={(part) => verbs.allow.mutate({ part, instead_of: at.part })}
                onDisallow={(part) => verbs.disallow.mutate(part)}
              />
            )}
          </div>
        </>
      )}
      {opened === "builds" && <PlanPanel plan={plan} onClose={close} />}
      {opened === "requests" && <RequestsPanel plan={plan} onPlan={() => verbs.again.mutate()} onClose={close} />}
      {opened === "limits" && <LimitsPanel plan={plan} onClose={close} />}
      {opened === "offer" && at && (
        <OfferPanel
          part={at.part}
          onKept={() => {
            close();
            verbs.again.mutate();
          }}
          onClose={close}
        />
      )}
    </div>
  );
}

/** A filter for each thing that is left to look at, and words to find a need by. */
function Filters({
  plan,
  filter,
  onFilter,
  words,
  onWords,
}: {
  plan: Plan;
  filter: NeedFilter;
  onFilter: (filter: NeedFilter | "") => void;
  words: string;
  onWords: (words: string) => void;
}) {
  const counts = countedNeeds(plan.needs);
  return (
    <div className="flex items-center gap-4">
      <fieldset className="flex gap-3" aria-label="Which needs">
        {(Object.keys(counts) as NeedFilter[])
          .filter((name) => counts[name] > 0 || name === filter)
          .map((name) => (
            <button
              key={name}
              type="button"
              aria-pressed={name === filter}
              onClick={() => onFilter(name === filter || name === "all" ? "" : name)}
              className={`border-b-2 ${name === filter ? "border-blue font-semibold text-blue" : "border-transparent text-ink-2 hover:text-ink"}`}
            >
              {name} {counts[name]}
            </button>
          ))}
      </fieldset>
      <input
        className="field ml-auto !min-h-[26px] max-w-[190px]"
        type="search"
        aria-label="Find a need"
        placeholder="find a need  /"
        value={words}
        onChange={(event) => onWords(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") onWords("");
        }}
      />
    </div>
  );
}
