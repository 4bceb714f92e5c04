/** How many past tickets there are: they are numbered before everything else of the demo. */
export const pastCount = 2000;
/** The number of the first request: the one series begins with 1001. */
export const firstRequest = 1001 + pastCount;
