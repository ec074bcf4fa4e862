import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import type { Inquiry } from "./states";

type Sheet = Schemas["PlannedSheetOut"];

/** What happens to a sheet, in words. */
function says(sheet: Sheet): string {
  if (sheet.stands) return `stands so already, revision ${sheet.revision}`;
  return sheet.new ? `new sheet, revision ${sheet.revision}, a draft` : `revision ${sheet.revision}, a draft`;
}

/** What the inquiry becomes, before it is saved: every sheet with every line, or what keeps it from that. */
export function ResultPanel({
  inquiry,
  onLine,
  onClose,
}: {
  inquiry: Inquiry;
  onLine: (line: number) => void;
  onClose: () => void;
}) {
  const say = useSay();
  const untrue = useUntrue();
  const navigate = useNavigate();
  const result = useQuery({
    queryKey: ["inquiry-result", inquiry.id, inquiry.stamp],
    queryFn: () =>
      answer(client.GET("/api/inquiries/{inquiry_id}/result", { params: { path: { inquiry_id: inquiry.id } } })),
    staleTime: 0,
    // The button stays in its place while a new plan is on its way: what is saved is the plan that is seen, or nothing.
    placeholderData: (old) => old,
  });
  const save = useMutation<Inquiry, Refusal, string | null>({
    mutationFn: (seal) =>
      answer(
        client.POST("/api/inquiries/{inquiry_id}/result", {
          params: { path: { inquiry_id: inquiry.id } },
          body: { seal },
        }),
      ),
    onError: () => result.refetch(),
    onSuccess: (saved) => {
      untrue("everything");
      const top = saved.products.find((p) => p.top);
      say(`${inquiry.number} became ${saved.products.map((p) => p.part).join(", ")}.`);
      if (top) navigate(`/sheets/${encodeURIComponent(top.part)}?sheet=${top.sheet}`);
    },
  });
  const made = result.data;
  const writes = made?.sheets.some((s) => !s.stands);
  return (
    <Panel
      title="What it becomes"
      note="all of it is saved, or nothing; sheets are drafts until they are released"
      open
      onClose={onClose}
    >
      <div className="mt-3 flex items-center gap-2">
        <Button
          look="strong"
          needs="sheets"
          autoFocus
          disabled={!made || made.problems.length > 0 || save.isPending}
          onClick={() => save.mutate(made?.seal ?? null)}
        >
          {made && !writes && made.problems.length === 0 ? "Name them as its products" : "Make the sheets"}
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
      {save.error && (
        <p role="alert" className="mt-2 text-bad">
          {save.error.message}
        </p>
      )}
      {made && made.problems.length > 0 && (
        <section aria-label="What keeps it from that" className="mt-3">
          <h3 className="font-semibold">What keeps it from that</h3>
          <ul>
            {made.problems.map((p) => (
              <li key={`${p.line} ${p.words}`}>
                {p.line ? (
                  <button type="button" className="text-left text-bad hover:underline" onClick={() => onLine(p.line)}>
                    {p.words}
                  </button>
                ) : (
                  <span className="text-bad">{p.words}</span>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      {made?.sheets.map((sheet) => (
        <section key={sheet.part} aria-label={sheet.part} className="mt-4">
          <h3 className="flex items-baseline gap-2">
            <span className="pn font-semibold">{sheet.part}</span>
            <span className="min-w-0 truncate text-ink-2">{sheet.description}</span>
            <span className="ml-auto text-[12px] whitespace-nowrap text-ink-2">{says(sheet)}</span>
          </h3>
          {sheet.turns_made && (
            <p className="text-[12px] text-brass">It came in as bought, and is a made part from now on.</p>
          )}
          <ul className="text-[13px]">
            {sheet.lines.map((line, index) => (
              <li
                // biome-ignore lint/suspicious/noArrayIndexKey: a planned line is its place
                key={index}
                className="grid grid-cols-[130px_1fr] gap-x-2 border-t border-hair"
              >
                <span className="pn truncate">{line.part}</span>
                <span
                  className={
                    line.verb === "stays" || line.verb === "not from a list"
                      ? "text-ink-3"
                      : line.verb === "gone"
                        ? "text-bad"
                        : ""
                  }
                >
                  {line.words}
                </span>
              </li>
            ))}
            {sheet.count > sheet.lines.length && (
              <li className="border-t border-hair text-ink-3">and {sheet.count - sheet.lines.length} more</li>
            )}
          </ul>
        </section>
      ))}
      {made && made.filled.length > 0 && (
        <section aria-label="What parts lack and the list says" className="mt-4">
          <h3 className="font-semibold">Parts that get what they lack</h3>
          {made.filled.map((x) => (
            <p key={`${x.part} ${x.field}`} className="border-t border-hair text-[13px]">
              <span className="pn">{x.part}</span> <span className="text-ink-3">{x.field}</span>{" "}
              <span className="text-ink-2">{x.text}</span>
            </p>
          ))}
        </section>
      )}
      {inquiry.products.length > 0 && (
        <section aria-label="What it became" className="mt-5">
          <h3 className="font-semibold">What it became so far</h3>
          {inquiry.products.map((p) => (
            <p key={p.sheet}>
              <Link
                className="pn text-blue hover:underline"
                to={`/sheets/${encodeURIComponent(p.part)}?sheet=${p.sheet}`}
              >
                {p.part}
              </Link>{" "}
              <span className="text-ink-2">
                revision {p.revision}, {p.status}
              </span>
            </p>
          ))}
        </section>
      )}
    </Panel>
  );
}
