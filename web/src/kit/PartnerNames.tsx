import { useQuery } from "@tanstack/react-query";
import { answer, client } from "../lib/api";

export type Role = "customer" | "supplier" | "maker";

/** The partners of a role, all of them without one. */
export function usePartners(role: Role | "" = "") {
  return useQuery({
    queryKey: ["partners", role],
    queryFn: () => answer(client.GET("/api/partners", { params: { query: { role } } })),
  });
}

/** Names to choose from while one is typed into a field that says `list={id}`; another name makes a new partner. */
export function PartnerNames({ id, of }: { id: string; of: Role }) {
  const partners = usePartners(of).data ?? [];
  return (
    <datalist id={id}>
      {partners.map((partner) => (
        <option key={partner.code} value={partner.name}>
          {partner.code}
        </option>
      ))}
    </datalist>
  );
}
