import type { ReactNode } from "react";

/** A screen with nothing on it yet: what to do first, and the button that does it. */
export function Empty({ title, children, action }: { title: string; children: ReactNode; action?: ReactNode }) {
  return (
    <div className="mx-auto mt-20 flex max-w-[420px] flex-col items-start gap-3">
      <h2 className="text-[18px] font-semibold">{title}</h2>
      <div className="text-ink-2">{children}</div>
      {action}
    </div>
  );
}
