import type { ReactNode } from "react";

/** A link out of the product: in a tab of its own, marked, and only what the web is made of. */
export function OutLink({ to, children }: { to: string; children: ReactNode }) {
  if (!/^https?:\/\//.test(to)) return null;
  return (
    <a
      className="text-blue hover:underline"
      href={to}
      target="_blank"
      rel="noopener noreferrer"
      title={`${to}, in a new tab`}
    >
      {children} ↗
    </a>
  );
}
