import { expose } from 'comlink';
import { analyseRouting } from '../../core/routing/index.ts';

/** Off the page's own thread: what a routing table says, however large. */
const api = { analyse: analyseRouting };
export type AnalysisWorker = typeof api;
expose(api);
