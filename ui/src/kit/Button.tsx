import type { ButtonHTMLAttributes } from "react";

type Look = "plain" | "main" | "quiet" | "warn";

const looks: Record<Look, string> = {
  plain: "border-[1.5px] border-lake text-lake hover:bg-wash",
  main: "border-[1.5px] border-lake bg-lake text-white hover:border-ink hover:bg-ink",
  quiet: "border-[1.5px] border-transparent text-lake underline underline-offset-2 hover:bg-wash",
  warn: "border-[1.5px] border-clay text-clay hover:bg-wash",
};

/** Button says what it does. */
export function Button({ look = "plain", className = "", ...rest }: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look }) {
  return (
    <button
      type="button"
      className={`h-[31px] rounded-sm px-3 font-semibold whitespace-nowrap disabled:border-rule disabled:bg-transparent disabled:text-soft ${looks[look]} ${className}`}
      {...rest}
    />
  );
}
