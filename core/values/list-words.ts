/** Several things in words: “a”, “a and b”, “a, b or c”; nothing of nothing. */
export const listWords = (names: readonly string[], word: 'and' | 'or' = 'and'): string =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} ${word} ${names.at(-1)}`;
