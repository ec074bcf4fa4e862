import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { Empty } from "../kit/Empty";
import { answer, client } from "../lib/api";

/** Which work center one stands at. */
export function CentersScreen() {
  const list = useQuery({
    queryKey: ["work-orders", "centers"],
    queryFn: () => answer(client.GET("/api/shop/centers")),
    staleTime: 0,
  });
  return (
    <div className="h-full overflow-y-auto p-4">
      <h1 className="pb-3 text-[22px] font-semibold">Where do you stand?</h1>
      {list.error && (
        <p role="alert" className="text-bad">
          {list.error.message}
        </p>
      )}
      {list.data?.length === 0 && (
        <Empty title="Nothing waits anywhere">
          Released orders stand here, at the work centers of their operations.
        </Empty>
      )}
      <ul className="grid max-w-[960px] grid-cols-1 gap-3 sm:grid-cols-2">
        {list.data?.map((center) => (
          <li key={center.code}>
            <Link
              to={`/shop/at/${encodeURIComponent(center.code)}`}
              className="flex min-h-[72px] items-center justify-between gap-3 border border-hair-2 bg-paper px-4 hover:border-blue"
            >
              <span>
                <b className="block text-[18px]">{center.name || center.code}</b>
                <span className="pn text-ink-2">{center.code}</span>
              </span>
              <span className="text-right text-[16px]">
                {center.operations} waiting
                {center.begun > 0 && <span className="block text-blue">{center.begun} begun</span>}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </div>
  );
}
