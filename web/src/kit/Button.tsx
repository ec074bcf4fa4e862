import type { ButtonHTMLAttributes, Ref } from "react";

/** A button: `strong` for the one thing to do, `quiet` inside running text and bars. */
export function Button({
  look = "plain",
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: "strong" | "plain" | "quiet"; ref?: Ref<HTMLButtonElement> }) {
  const looks = {
    strong: "bg-blue text-paper border-blue font-semibold",
    plain: "bg-paper border-hair-2 hover:border-blue",
    quiet: "border-transparent text-blue hover:underline px-1",
  };
  return (
    <button
      type="button"
      className={`inline-flex min-h-[30px] items-center gap-1.5 rounded-[3px] border px-3 whitespace-nowrap disabled:opacity-50 ${looks[look]} ${className}`}
      {...rest}
    />
  );
}
