import type { ButtonHTMLAttributes } from "react";

type Kind = "plain" | "strong" | "link" | "bare";

const KINDS: Record<Kind, string> = {
  plain: "whitespace-nowrap border border-ink bg-sheet px-3 py-1 hover:bg-band",
  strong: "whitespace-nowrap border border-ink bg-ink px-3 py-1 text-paper hover:opacity-90",
  link: "underline decoration-line hover:decoration-ink",
  bare: "px-1 hover:bg-band",
};

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  kind?: Kind;
}

/** A button in one of our four dresses. */
export function Button({ kind = "plain", className = "", type = "button", ...rest }: Props) {
  return (
    <button
      type={type}
      className={`text-note disabled:cursor-not-allowed disabled:opacity-50 ${KINDS[kind]} ${className}`}
      {...rest}
    />
  );
}
