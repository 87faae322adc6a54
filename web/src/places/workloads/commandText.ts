/** Words of a command on one line: parted by spaces, "in quotes" where a word has spaces of its own. */
export function lineOf(words: string[]): string {
  return words
    .map((word) => (/[\s"\\]/.test(word) || !word ? `"${word.replace(/["\\]/g, "\\$&")}"` : word))
    .join(" ");
}

export function wordsOf(line: string): string[] {
  const found = line.matchAll(/"((?:[^"\\]|\\.)*)"|(\S+)/g);
  return [...found].map((one) => (one[1] !== undefined ? one[1].replace(/\\(.)/g, "$1") : (one[2] ?? "")));
}

export function linesOf(text: string): string[] {
  return text.split("\n").filter((line) => line.trim());
}
