import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useAskedAs } from "../lib/askedAs";
import { day } from "../lib/number";
import { useUntrue } from "../lib/untrue";

/** The quotes of an inquiry, and a new one from its plans. */
export function QuotesOf({ inquiry }: { inquiry: number }) {
  const navigate = useNavigate();
  const untrue = useUntrue();
  const askedAs = useAskedAs();
  const list = useQuery({
    queryKey: ["quotes", "of", inquiry],
    queryFn: () => answer(client.GET("/api/quotes", { params: { query: { inquiry } } })),
    staleTime: 0,
  });
  const make = useMutation<Schemas["QuoteOut"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/quotes/of-inquiry/{inquiry_id}", {
          params: { path: { inquiry_id: inquiry } },
          body: { key: askedAs(inquiry) },
        }),
      ),
    onSuccess: (made) => {
      untrue("quote");
      navigate(`/quotes/${made.id}`);
    },
  });
  return (
    <section aria-label="Quotes" className="flex items-baseline gap-4 pb-3">
      <Button needs="buying" disabled={make.isPending} onClick={() => make.mutate()}>
        Quote these quantities
      </Button>
      {(list.data ?? []).map((q) => (
        <span key={q.id} className="text-ink-2">
          <Link className="pn text-blue underline" to={`/quotes/${q.id}`}>
            {q.number}
          </Link>{" "}
          {q.state === "sent" ? `sent ${day(q.sent_at)}` : `draft of ${day(q.made_at)}`}
        </span>
      ))}
      {make.error && (
        <span role="alert" className="text-bad">
          {make.error.problems[0]?.message ?? make.error.message}
        </span>
      )}
    </section>
  );
}
