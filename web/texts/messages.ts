/** The texts of a source that people read, with the places in them that are filled in while it runs. */

import ts from "typescript";
import { plural } from "../src/design/plural";
import { ASKING, isPhrase, isRead, READ, UNREAD } from "./words";

type Range = readonly [start: number, end: number];

/**
 * A text with `{0}`, `{1}` … for what is filled in. `form` is how it stands in the source: a number of things is given
 * as `count(n, "pass", "passes")` and has the text "pass|passes".
 */
export interface Message {
  text: string;
  range: Range;
  slots: Range[];
  form: "children" | "attribute" | "literal" | "template" | "plural";
}

/**
 * All of them, in the order of the source; those within a slot of another come after it. A text that the same source
 * compares with something is a value, whatever it looks like.
 */
export function messagesOf(path: string, code: string): Message[] {
  const kind = path.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS;
  const source = ts.createSourceFile(path, code, ts.ScriptTarget.Latest, true, kind);
  const found: Message[] = [];
  look(source, false, found);
  const values = compared(source, new Set());
  return found.filter((one) => one.form !== "literal" || !values.has(one.text));
}

function compared(node: ts.Node, values: Set<string>): Set<string> {
  const note = (one: ts.Node) => {
    if (ts.isStringLiteral(one)) values.add(one.text);
  };
  if (ts.isBinaryExpression(node) && isComparison(node)) [node.left, node.right].forEach(note);
  else if (ts.isCaseClause(node)) note(node.expression);
  else if (ts.isLiteralTypeNode(node)) note(node.literal);
  else if (ts.isPropertyAssignment(node)) note(node.name);
  ts.forEachChild(node, (child) => void compared(child, values));
  return values;
}

function isComparison({ operatorToken: { kind } }: ts.BinaryExpression): boolean {
  return (
    kind === ts.SyntaxKind.EqualsEqualsEqualsToken || kind === ts.SyntaxKind.ExclamationEqualsEqualsToken
  );
}

/** Looks at a node; `read` says that a text here is read, whatever it looks like. */
function look(node: ts.Node, read: boolean, found: Message[]): void {
  if (ts.isTypeNode(node) || ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
  if (ts.isJsxElement(node) || ts.isJsxFragment(node)) return element(node, found);
  if (ts.isJsxAttribute(node)) return attribute(node, found);
  if (ts.isPropertyAssignment(node)) return property(node, read, found);
  if (ts.isCallExpression(node) || ts.isNewExpression(node)) return call(node, read, found);
  if (ts.isBinaryExpression(node)) return binary(node, read, found);
  if (ts.isConditionalExpression(node)) {
    look(node.condition, false, found);
    look(node.whenTrue, read, found);
    return look(node.whenFalse, read, found);
  }
  if (ts.isCaseClause(node)) return node.statements.forEach((one) => look(one, false, found));
  if (ts.isElementAccessExpression(node)) return look(node.expression, false, found);
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) {
    if (read ? isRead(node.text) : isPhrase(node.text)) {
      found.push({ text: node.text, range: rangeOf(node), slots: [], form: "literal" });
    }
    return;
  }
  if (ts.isTemplateExpression(node)) return template(node, read, found);
  const passes = ts.isParenthesizedExpression(node) || ts.isJsxExpression(node) || ts.isAsExpression(node);
  ts.forEachChild(node, (child) => look(child, passes && read, found));
}

function element(node: ts.JsxElement | ts.JsxFragment, found: Message[]): void {
  if (ts.isJsxElement(node)) look(node.openingElement, false, found);
  const slots: Range[] = [];
  const filled: ts.Node[] = [];
  let text = "";
  for (const child of node.children) {
    const said = ts.isJsxText(child) ? trimmed(child.text) : spelled(child);
    if (said !== null) text += said;
    else if (!ts.isJsxExpression(child) || child.expression) {
      text += `{${slots.length}}`;
      slots.push(rangeOf(child));
      filled.push(child);
    }
  }
  const first = node.children[0];
  const last = node.children[node.children.length - 1];
  if (first && last && isRead(text)) {
    found.push({ text, range: [first.getFullStart(), last.getEnd()], slots, form: "children" });
  }
  filled.forEach((child) => look(child, ts.isJsxExpression(child), found));
}

/** Text between elements as JSX understands it: lines are joined by a space, their ends are nothing. */
function trimmed(text: string): string {
  const lines = text.split(/\r?\n/);
  const last = lines.length - 1;
  return lines
    .map((line, at) => (at > 0 ? line.replace(/^[ \t]+/, "") : line))
    .map((line, at) => (at < last ? line.replace(/[ \t]+$/, "") : line))
    .filter((line) => line !== "")
    .join(" ");
}

/** The text of a child like {" "}. */
function spelled(node: ts.Node): string | null {
  if (!ts.isJsxExpression(node) || !node.expression) return null;
  return ts.isStringLiteral(node.expression) ? node.expression.text : null;
}

function attribute(node: ts.JsxAttribute, found: Message[]): void {
  const name = node.name.getText();
  const value = node.initializer;
  if (!value || UNREAD.has(name)) {
    // What an attribute of this name is given is no text, but there may be parts with text in it.
    if (value && ts.isJsxExpression(value) && name !== "className") parts(value, found);
  } else if (!ts.isStringLiteral(value)) look(value, READ.has(name), found);
  else if (READ.has(name) ? isRead(value.text) : isPhrase(value.text)) {
    found.push({ text: value.text, range: rangeOf(value), slots: [], form: "attribute" });
  }
}

/** Only elements and functions within an expression. */
function parts(node: ts.Node, found: Message[]): void {
  if (
    ts.isJsxElement(node) ||
    ts.isJsxFragment(node) ||
    ts.isJsxSelfClosingElement(node) ||
    ts.isArrowFunction(node)
  ) {
    return look(node, false, found);
  }
  ts.forEachChild(node, (child) => parts(child, found));
}

function property(node: ts.PropertyAssignment, read: boolean, found: Message[]): void {
  const name = ts.isStringLiteral(node.name) || ts.isIdentifier(node.name) ? node.name.text : "";
  if (UNREAD.has(name)) parts(node.initializer, found);
  else look(node.initializer, read || READ.has(name), found);
}

function call(node: ts.CallExpression | ts.NewExpression, read: boolean, found: Message[]): void {
  const called = ts.isPropertyAccessExpression(node.expression)
    ? [node.expression.getText(), node.expression.name.text]
    : [node.expression.getText()];
  look(node.expression, read && ts.isPropertyAccessExpression(node.expression), found);
  const asks = called.some((name) => ASKING.test(name));
  const [number, ...forms] = node.arguments ?? [];
  if (called[0] === "count" && number && forms.length && forms.every(ts.isStringLiteral)) {
    look(number, false, found);
    const [one = "", many = plural(one)] = forms.map((form) => form.text);
    const range: Range = [forms[0]?.getStart() ?? 0, forms[forms.length - 1]?.getEnd() ?? 0];
    found.push({ text: `${one}|${many}`, range, slots: [], form: "plural" });
    return;
  }
  for (const one of node.arguments ?? []) {
    if (asks) parts(one, found);
    else look(one, false, found);
  }
}

function binary(node: ts.BinaryExpression, read: boolean, found: Message[]): void {
  const kind = node.operatorToken.kind;
  if (isComparison(node) || kind === ts.SyntaxKind.InKeyword) {
    parts(node.left, found);
    return parts(node.right, found);
  }
  const and = kind === ts.SyntaxKind.AmpersandAmpersandToken;
  look(node.left, read && !and, found);
  look(node.right, read, found);
}

function template(node: ts.TemplateExpression, read: boolean, found: Message[]): void {
  const spans = node.templateSpans;
  const text = node.head.text + spans.map((span, at) => `{${at}}${span.literal.text}`).join("");
  const words = read ? isRead(text) : isPhrase(text);
  if (words) {
    const slots = spans.map((span) => rangeOf(span.expression));
    found.push({ text, range: rangeOf(node), slots, form: "template" });
  }
  spans.forEach((span) => look(span.expression, read || words, found));
}

function rangeOf(node: ts.Node): Range {
  return [node.getStart(), node.getEnd()];
}
