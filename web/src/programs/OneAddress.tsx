import type { Address } from "./reading";

/** One address: what it is for, what it takes, what it answers, and how it is asked. */
export function OneAddress({ address }: { address: Address }) {
  const example = address.takes.filter((t) => t.needed && !t.within).map((t) => `${t.name}=…`);
  const asked = `${window.location.origin}${address.path}${example.length ? `?${example.join("&")}` : ""}`;
  return (
    <section aria-label="The address" className="border-t border-ink bg-paper px-3 py-2">
      <h2 className="font-mono text-[15px] font-semibold break-all">{address.path}</h2>
      <p className="max-w-[80ch] py-1">{address.words}</p>
      <pre className="overflow-x-auto bg-sunk px-2 py-1.5 font-mono text-[13px]">{`curl -H "Authorization: Bearer rt_…" "${asked}"`}</pre>
      {address.takes.length > 0 && (
        <>
          <h3 className="pt-2 font-semibold">It takes</h3>
          <dl className="grid grid-cols-[220px_1fr] gap-x-3">
            {address.takes.map((t) => (
              <div key={t.name} className="contents">
                <dt className="font-mono text-[13px]">{t.name}</dt>
                <dd className="text-ink-2">
                  {t.kind || "text"}
                  {t.within ? ", in the address" : t.needed ? ", needed" : ""}
                </dd>
              </div>
            ))}
          </dl>
        </>
      )}
      <h3 className="pt-2 font-semibold">It answers {address.whole}</h3>
      {address.answers.length > 0 && (
        <dl className="grid grid-cols-[220px_1fr] gap-x-3">
          {address.answers.map((a, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a field is its place in the answer
            <div key={at} className="contents">
              <dt className="font-mono text-[13px]" style={{ paddingLeft: 16 * a.depth }}>
                {a.name}
              </dt>
              <dd className="text-ink-2">{a.kind}</dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}
