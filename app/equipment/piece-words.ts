import { lists } from '../../core/lists/index.ts';

/** In what state a piece can be, in words. */
export const pieceStates = lists.pieces.filters.state.options;
