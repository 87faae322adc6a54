/**
 * What JSX is compiled to: React's own, but for what people read. Text, and what stands for it to a screen reader or a
 * pointer at rest, has its numbers and temperatures as this person wants them. So no part of the application has to
 * think of it, and sentences of the server need not know who reads them. To be written twice changes nothing more.
 */

import type { ElementType, Key, ReactElement, ReactNode } from "react";
import * as plain from "react/jsx-runtime";
import { said, writesPlainly } from "../design/writing";

export type { JSX } from "react/jsx-runtime";
export const Fragment = plain.Fragment;

type Props = Record<string, unknown> & { children?: ReactNode };

/** Elements whose text is a value, or is meant letter by letter. */
const AS_IT_IS = new Set(["option", "textarea", "code", "pre", "style", "script"]);
const READ_OUT = ["title", "aria-label", "alt"];

export function jsx(type: ElementType, props: Props, key?: Key): ReactElement {
  return plain.jsx(type, read(type, props), key);
}

export function jsxs(type: ElementType, props: Props, key?: Key): ReactElement {
  return plain.jsxs(type, read(type, props), key);
}

/** Of any part, as those of a package hand their text on to elements that they make themselves. */
function read(type: ElementType, props: Props): Props {
  if (writesPlainly() || (typeof type === "string" && AS_IT_IS.has(type))) return props;
  const changed: Props = { ...props, children: texts(props.children) };
  if (!("children" in props)) delete changed.children;
  for (const name of READ_OUT) {
    const told = props[name];
    if (typeof told === "string") changed[name] = said(told);
  }
  return changed;
}

/** Texts side by side are one sentence to whoever reads, so they are looked at as one; the others become empty. */
function texts(children: ReactNode): ReactNode {
  if (typeof children === "string") return said(children);
  if (!Array.isArray(children)) return children;
  const all: ReactNode[] = children.map((one: ReactNode) => (Array.isArray(one) ? texts(one) : one));
  for (let at = 0; at < all.length; at += 1) {
    if (!isText(all[at])) continue;
    let end = at;
    while (end < all.length && isText(all[end])) end += 1;
    all[at] = said(all.slice(at, end).join(""));
    all.fill("", at + 1, end);
    at = end;
  }
  return all;
}

function isText(one: ReactNode): one is string | number {
  return typeof one === "string" || typeof one === "number";
}
