import type { ButtonHTMLAttributes, MouseEvent, Ref } from "react";
import { type Subject, useRefusal } from "../lib/session";
import { useSay } from "./Says";

/**
 * A button: `strong` for the one thing to do, `quiet` inside running text and bars. With `needs`, whoever may not write that
 * subject finds it disabled with the server's reason; `why` is the server's reason by how the thing stands. Disabled it does nothing but can still be reached: a reason can be read,
 * and the keyboard does not lose its place when the button that was pressed has nothing more to do.
 */
export function Button({
  look = "plain",
  className = "",
  needs,
  why,
  disabled,
  onClick,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & {
  look?: "strong" | "plain" | "quiet";
  needs?: Subject;
  why?: string;
  ref?: Ref<HTMLButtonElement>;
}) {
  const refusal = useRefusal(needs);
  const reason = refusal ?? why;
  const say = useSay();
  const looks = {
    strong: "bg-blue text-paper border-blue font-semibold",
    plain: "bg-paper border-hair-2 hover:border-blue",
    quiet: "border-transparent text-blue hover:underline px-1",
  };
  const off = reason || disabled ? { "aria-disabled": true, ...(reason ? { title: reason } : {}) } : {};
  const stay = (event: MouseEvent) => {
    event.preventDefault();
    if (reason) say(reason, { bad: true });
  };
  return (
    <button
      type="button"
      className={`inline-flex min-h-[30px] items-center gap-1.5 rounded-[3px] border px-3 whitespace-nowrap aria-disabled:cursor-not-allowed aria-disabled:opacity-50 ${looks[look]} ${className}`}
      onClick={reason || disabled ? stay : onClick}
      {...rest}
      {...off}
    />
  );
}
