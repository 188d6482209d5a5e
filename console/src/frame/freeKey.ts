/** A key made of words that nothing of a list has yet. */
export function freeKey(words: string, taken: { key: string }[], otherwise = 'new'): string {
  const base =
    words
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '') || otherwise;
  for (let n = 1; ; n++) {
    const key = n === 1 ? base : `${base}-${n}`;
    if (!taken.some((one) => one.key === key)) {
      return key;
    }
  }
}
