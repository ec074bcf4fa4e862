import { Link, useNavigate, useParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { Files } from "./Files";
import { Sheet } from "./Sheet";
import { whatOf } from "./states";
import { useHandover, useHandoverVerbs } from "./useHandover";

/** All that a handover will write, to be read before it is written; and the button that writes it. */
export function ChangesScreen() {
  const id = Number(useParams().id);
  const navigate = useNavigate();
  const found = useHandover(id, false);
  const verbs = useHandoverVerbs(id);
  if (found.error)
    return (
      <p role="alert" className="p-4 text-bad">
        {found.error.message}
      </p>
    );
  if (!found.data) return null;
  const { head, compared, written } = found.data;
  const sheet = compared?.sheet ?? written;
  const stops = compared?.stops ?? [];
  const back = `/handover/${id}`;
  return (
    <div className="flex h-full flex-col gap-2 px-4 pt-2">
      <div className="flex items-center gap-3">
        <h1 className="text-[20px] font-semibold">Change sheet</h1>
        <p className="truncate text-ink-2">
          <span className="pn">{head.number}</span>, <span className="pn">{head.top}</span> {head.description}
          {head.sheets.length > 0 && ` (${whatOf(head)}: ${head.sheets.join(", ")})`} and {head.record}
        </p>
        <span className="ml-auto flex gap-2">
          <Button onClick={() => navigate(back)}>Back to the rows</Button>
          {sheet && <Files id={id} />}
          {compared && (
            <Button
              look="strong"
              needs="handover"
              disabled={
                stops.length > 0 || compared.sheet.changes.length === 0 || verbs.handOver.isPending || !!head.job
              }
              onClick={() => verbs.handOver.mutate(compared.digest, { onSuccess: () => navigate(back) })}
            >
              Hand over
            </Button>
          )}
        </span>
      </div>
      {stops.length > 0 && (
        <section
          aria-label="What stops it"
          className="max-h-[30vh] overflow-y-auto border-l-2 border-bad bg-bad-tint px-3 py-1.5"
        >
          <h2 className="font-semibold text-bad">
            {stops.length} {stops.length === 1 ? "thing stops" : "things stop"} it; all of it is written or nothing
          </h2>
          {stops.map((s) => (
            <p key={`${s.row} ${s.words}`}>
              <Link className="hover:underline" to={`${back}?row=${encodeURIComponent(s.row || s.part)}`}>
                <span className="pn text-blue underline">{s.part}</span> {s.words}
              </Link>
            </p>
          ))}
        </section>
      )}
      <div className="min-h-0 flex-1 overflow-y-auto pb-4">
        {sheet && sheet.changes.length > 0 && <Sheet sheet={sheet} />}
        {sheet && sheet.changes.length === 0 && (
          <Empty
            title="Nothing is to be written"
            action={<Button onClick={() => navigate(back)}>Back to the rows</Button>}
          >
            Both sides agree in all that was not left out.
          </Empty>
        )}
      </div>
    </div>
  );
}
