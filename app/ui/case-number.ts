/** The number of a case as people know it: T-1042 of a ticket, R-1042 of a request. */
export const caseNumber = (kind: 'request' | 'ticket', n: number): string => `${kind === 'ticket' ? 'T' : 'R'}-${n}`;
