import { useMutation } from "@tanstack/react-query";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal } from "../lib/api";
import { day } from "../lib/number";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { type Inquiry, STATES } from "./states";

export type Opened = "head" | "files" | "questions" | "result" | "builds" | null;

/** What the inquiry is, how it stands, and where its parts open. */
export function HeadLine({ inquiry, onOpen }: { inquiry: Inquiry; onOpen: (what: Opened) => void }) {
  const say = useSay();
  const untrue = useUntrue();
  const may = useMay("inquiries");
  const set = useMutation<Inquiry, Refusal, string>({
    mutationFn: (state) =>
      answer(
        client.PATCH("/api/inquiries/{inquiry_id}", {
          params: { path: { inquiry_id: inquiry.id } },
          body: { state, version: inquiry.version },
        }),
      ),
    onSuccess: () => untrue("inquiry"),
    onError: (error) => {
      untrue("inquiry");
      say(error.message, { bad: true });
    },
  });
  const top = inquiry.products.find((p) => p.top);
  const files = inquiry.files.filter((f) => !f.replaced_by).length;
  return (
    <div className="flex items-center gap-3 whitespace-nowrap">
      <h1 className="flex min-w-0 items-baseline gap-2">
        <span className="pn text-[15px] text-ink-2">{inquiry.number}</span>
        <button
          type="button"
          className="truncate text-[20px] font-semibold hover:underline"
          title="its head"
          onClick={() => onOpen("head")}
        >
          {inquiry.title}
        </button>
      </h1>
      <span className="min-w-0 truncate text-ink-2">
        {inquiry.customer || "a list of our own"}
        {inquiry.wanted_by && `, answer by ${day(inquiry.wanted_by)}`}
      </span>
      <select
        className="field !w-auto"
        aria-label="How it stands"
        disabled={!may}
        value={inquiry.state}
        onChange={(e) => set.mutate(e.target.value)}
      >
        {Object.entries(STATES).map(([code, words]) => (
          <option key={code} value={code}>
            {words}
          </option>
        ))}
      </select>
      {top && (
        <Link className="text-blue hover:underline" to={`/sheets/${encodeURIComponent(top.part)}?sheet=${top.sheet}`}>
          <span className="pn">{top.part}</span>
        </Link>
      )}
      <span className="ml-auto flex gap-2">
        <Button onClick={() => onOpen("files")}>Files {files > 0 && files}</Button>
        <Button onClick={() => onOpen("builds")}>Builds {inquiry.builds.length > 0 && inquiry.builds.length}</Button>
        <Button onClick={() => onOpen("questions")}>Questions {inquiry.questions > 0 && inquiry.questions}</Button>
        <Button
          look={inquiry.lines > 0 && inquiry.decided === inquiry.lines ? "strong" : "plain"}
          onClick={() => onOpen("result")}
        >
          Make sheets
        </Button>
      </span>
    </div>
  );
}
