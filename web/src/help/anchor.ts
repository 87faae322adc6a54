/** The name of a place in a page of the help: the words that stand there, without marks. */
export function anchor(words: string): string {
  const plain = words.replace(/<[^>]*>|&[#\w]+;/g, "").toLowerCase();
  return plain.replace(/[^\p{L}\d]+/gu, "-").replace(/^-|-$/g, "");
}
