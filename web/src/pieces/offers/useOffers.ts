import { useQuery } from "@tanstack/react-query";
import { answer, client } from "../../lib/api";

/** The offers of a part, and the unit it is bought in. */
export function useOffers(part: string) {
  return useQuery({
    queryKey: ["buying", "offers", part],
    queryFn: () => answer(client.GET("/api/buying/offers", { params: { query: { part } } })),
  });
}
