import { useQuery } from "@tanstack/react-query";
import { answer, client } from "../../lib/api";
import { useBasis } from "../../lib/basis";

/** The ways to build a part, with what one costs under the basis. */
export function useAlternates(number: string) {
  const [basis] = useBasis(true);
  return useQuery({
    queryKey: ["sheets", "alternates", number, basis],
    queryFn: () => answer(client.GET("/api/parts/one/alternates", { params: { query: { number, ...basis } } })),
    staleTime: 0,
  });
}
