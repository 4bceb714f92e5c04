/** What a note holds, as words within a line: the first as an ordinary word, unless it is written large altogether. */
export const noteWords = (labels: string[]): string => labels.join(', ').replace(/^\p{Lu}(?=\p{Ll})/u, (c) => c.toLowerCase());
