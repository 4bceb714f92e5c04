import { worker } from './worker.ts';

export default () => worker.kill();
