import type { ReactNode } from "react";

/** A heading and what stands under it. */
export function Section({ title, beside, children }: { title: string; beside?: ReactNode; children: ReactNode }) {
  return (
    <section aria-label={title} className="mb-6 min-w-0 break-inside-avoid">
      <h2 className="mb-1.5 flex items-baseline gap-2 border-b border-ink pb-1 font-semibold">
        {title}
        {beside && <span className="text-[12px] font-normal text-ink-3">{beside}</span>}
      </h2>
      {children}
    </section>
  );
}
