/** A run begun by this many causes, one after another, is cut. */
export const causeLimit = 8;

/**
 * The chain of causes of something that `cause` is about to begin: the causes that began `cause` itself, and then it.
 * At the limit the answer is `cut`: a plan or rule that begins its own cause again would otherwise never end.
 */
export function causeChain(before: string[], cause: string): { chain: string[] } | { cut: string } {
  const chain = [...before, cause];
  if (chain.length < causeLimit) return { chain };
  return { cut: `Cut: this would be number ${chain.length} in a chain of requests that begin each other (${[...new Set(chain)].join(', ')}).` };
}
