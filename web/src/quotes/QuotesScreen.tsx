import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { answer, client, type Schemas } from "../lib/api";
import { day } from "../lib/number";

type Row = Schemas["QuoteRow"];

const COLUMNS: DataColumn<Row>[] = [
  {
    key: "number",
    title: "Number",
    width: "90px",
    value: (q) => q.number,
    show: (q) => <span className="pn">{q.number}</span>,
  },
  { key: "customer", title: "Customer", width: "minmax(150px,1fr)", value: (q) => q.customer, groups: true },
  { key: "title", title: "What for", width: "minmax(180px,1.4fr)", value: (q) => q.title },
  { key: "inquiry", title: "Inquiry", width: "90px", value: (q) => q.inquiry_number, groups: true },
  {
    key: "state",
    title: "State",
    width: "200px",
    value: (q) => q.sent_at ?? "",
    show: (q) =>
      q.sent_at ? `sent ${day(q.sent_at)} by ${q.sent_by}` : <span className="text-brass">not sent yet</span>,
  },
  {
    key: "made",
    title: "Made",
    width: "180px",
    value: (q) => q.made_at,
    show: (q) => `${day(q.made_at)} by ${q.made_by}`,
  },
];

/** Every quote, the newest first. */
export function QuotesScreen() {
  const navigate = useNavigate();
  const list = useQuery({
    queryKey: ["quotes", "all"],
    queryFn: () => answer(client.GET("/api/quotes")),
    staleTime: 0,
  });
  return (
    <ListFrame title="Quotes" words="What customers were offered, as it was sent." error={list.error?.message}>
      {list.data?.length === 0 ? (
        <Empty
          title="Nothing was quoted yet"
          action={
            <Button look="strong" onClick={() => navigate("/inquiries")}>
              To the inquiries
            </Button>
          }
        >
          A quote is made from the buy plans of an inquiry.
        </Empty>
      ) : (
        <DataTable
          name="quotes"
          title="Quotes"
          columns={COLUMNS}
          rows={list.data ?? []}
          onOpen={(q) => navigate(`/quotes/${q.id}`)}
        />
      )}
    </ListFrame>
  );
}
