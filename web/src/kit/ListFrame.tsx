import type { ReactNode } from "react";

/** A screen that is one list: its name and what it holds, what could not be read, and the list or why there is none. */
export function ListFrame({
  title,
  words,
  error,
  beside,
  children,
}: {
  title: string;
  words: string;
  error?: string;
  beside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">{title}</h1>
        <p className="text-ink-2">{words}</p>
        {beside}
      </div>
      {error && (
        <p role="alert" className="text-bad">
          {error}
        </p>
      )}
      {children}
    </div>
  );
}
