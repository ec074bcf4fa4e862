import type { ButtonHTMLAttributes, Ref } from "react";
import { type Subject, useRefusal } from "../lib/session";
import { useSay } from "./Says";

/**
 * A button: `strong` for the one thing to do, `quiet` inside running text and bars. With `needs`, whoever may not write that
 * subject finds it disabled with the server's reason; it can still be reached, so that the reason can be read.
 */
export function Button({
  look = "plain",
  className = "",
  needs,
  onClick,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & {
  look?: "strong" | "plain" | "quiet";
  needs?: Subject;
  ref?: Ref<HTMLButtonElement>;
}) {
  const reason = useRefusal(needs);
  const say = useSay();
  const looks = {
    strong: "bg-blue text-paper border-blue font-semibold",
    plain: "bg-paper border-hair-2 hover:border-blue",
    quiet: "border-transparent text-blue hover:underline px-1",
  };
  const refused = reason ? ({ "aria-disabled": true, title: reason } as const) : {};
  return (
    <button
      type="button"
      className={`inline-flex min-h-[30px] items-center gap-1.5 rounded-[3px] border px-3 whitespace-nowrap disabled:opacity-50 aria-disabled:cursor-not-allowed aria-disabled:opacity-50 ${looks[look]} ${className}`}
      onClick={reason ? () => say(reason, { bad: true }) : onClick}
      {...rest}
      {...refused}
    />
  );
}
