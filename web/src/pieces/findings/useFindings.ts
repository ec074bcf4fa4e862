import { useMutation, useQuery } from "@tanstack/react-query";
import { useSay } from "../../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { useUntrue } from "../../lib/untrue";

export type FindingOut = Schemas["FindingOut"];

/** What is found on a sheet and below it, as it stands now. `state` is that of the product (`stateOf`); before there is one
 * nothing is asked: the sheet itself comes first. */
export function useFindings(sheetId: number, state: string) {
  return useQuery({
    queryKey: ["findings", "product", sheetId, state],
    queryFn: () => answer(client.GET("/api/findings/product/{sheet_id}", { params: { path: { sheet_id: sheetId } } })),
    enabled: state !== "",
    placeholderData: (old) => old,
  });
}

/** Waives a finding with a reason, or takes the waiver back. */
export function useWaiver() {
  const untrue = useUntrue();
  const say = useSay();
  return useMutation<unknown, Refusal, { key: string; reason: string | null }>({
    mutationFn: ({ key, reason }) =>
      reason === null
        ? answer(client.POST("/api/findings/waivers/back", { body: { key, reason: "" } }))
        : answer(client.POST("/api/findings/waivers", { body: { key, reason } })),
    onSuccess: (_, { reason }) => {
      say(reason === null ? "Took the waiver back." : "Waived; the reason is kept.");
      untrue("finding");
    },
    onError: (error) => say(error.message, { bad: true }),
  });
}

/** The address of a finding's place. */
export function placeOf(finding: FindingOut): string {
  if (finding.sheet === null) return `/parts?part=${encodeURIComponent(finding.part)}`;
  const query = new URLSearchParams({ sheet: String(finding.sheet), drafts: "1" });
  if (finding.line) query.set("at", `/${finding.line}~part`);
  return `/sheets/${encodeURIComponent(finding.part)}?${query}`;
}
