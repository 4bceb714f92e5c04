/** In what state a piece can be. Set aside: for somebody who is to fetch it. */
export const pieceStates = ['free', 'setAside', 'out', 'repair', 'missing', 'retired'] as const;
/** The state of a piece. */
export type PieceState = (typeof pieceStates)[number];

/** A piece as the books have it. */
export interface Booked {
  id: string;
  /** What tells it apart: its serial number or its tag. Null: nothing does. */
  mark: string | null;
  place: string;
  state: PieceState;
}

/** What a count at a place found beside what the books have there. */
export interface Counted<B extends Booked = Booked> {
  /** Those that stand where the books have them. */
  there: B[];
  /** The books have them here, and they were not found. */
  missing: B[];
  /** They were found here, and the books have them elsewhere, or out, or gone. */
  elsewhere: B[];
  /** Marks that the books do not know. */
  unknown: string[];
  /** Of pieces that nothing tells apart: so many more were found than the books have. */
  more: number;
}

const onShelf = (b: Booked, place: string): boolean => b.place === place && (b.state === 'free' || b.state === 'setAside');
/** Marks are the same however they are written. */
export const markKey = (mark: string): string => mark.trim().toLowerCase();

/**
 * Compares what was counted at a place with the books. Of pieces with marks the marks count, each once; of those without, how many
 * there are: where some are missing, those that are free are before those that are set aside.
 *
 * @param books All pieces of one kind.
 * @param found The marks that were read; or of pieces without marks, how many were counted.
 */
export function compareCount<B extends Booked>(books: readonly B[], place: string, found: readonly string[] | number): Counted<B> {
  const here = books.filter((b) => onShelf(b, place));
  if (typeof found === 'number') {
    const inOrder = [...here.filter((b) => b.state === 'setAside'), ...here.filter((b) => b.state === 'free')];
    return { there: inOrder.slice(0, found), missing: inOrder.slice(found), elsewhere: [], unknown: [], more: Math.max(0, found - here.length) };
  }
  const read = new Map(found.map((m) => [markKey(m), m.trim()] as const).filter(([key]) => key !== ''));
  const byMark = new Map(books.flatMap((b) => (b.mark === null ? [] : [[markKey(b.mark), b] as const])));
  const isRead = (b: B) => b.mark !== null && read.has(markKey(b.mark));
  return {
    there: here.filter(isRead),
    missing: here.filter((b) => !isRead(b)),
    elsewhere: [...byMark.values()].filter((b) => isRead(b) && !onShelf(b, place)),
    unknown: [...read].flatMap(([key, mark]) => (byMark.has(key) ? [] : [mark])),
    more: 0,
  };
}
