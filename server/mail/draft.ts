import type { Invitation } from '../../core/formats/index.ts';
import type { TextSnapshot } from '../../core/engine/index.ts';

/** A page that a message leads to: the request itself, its trace, what one holds, what one’s people do, the counter of the stores; a task, an approval, a sealed note or a meeting by its id. */
export type Page = 'request' | 'trace' | 'things' | 'peoplesThings' | 'counterOfStores' | `${'task' | 'approval' | 'note' | 'meeting'}:${string}`;

/** A message to be written: either with words of its own, or the one that asks for an approval. */
export interface Draft {
  key: string;
  to: string;
  content?: { subject: TextSnapshot; body: TextSnapshot };
  approvalId?: string;
  reminder?: boolean;
  via?: 'mail' | 'chat';
  page?: Page;
  /** The files that go with it. */
  files?: string[];
  /** Of an invitation, or that it is off: what calendar programs read, but for the words, which are said to each in theirs. */
  invitation?: Omit<Invitation, 'title' | 'words' | 'place' | 'stamp'> & {
    invitedId: string;
    title: TextSnapshot;
    words: TextSnapshot;
    place?: TextSnapshot;
  };
}

/** Fixed words, for messages the runtime itself writes. */
export const fixed = (text: string): TextSnapshot => ({ text: text.split('\n').map((line) => [{ text: line }]), values: {} });

/** A subject that ends with the number of the request. */
export const aboutRequest = (words: string): TextSnapshot => ({ text: [[{ text: `${words}, ` }, { ref: 'request.number' }]], values: {} });
