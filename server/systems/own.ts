import { directoryId, directoryName } from './directory/id.ts';
import { equipmentId, equipmentName } from './equipment/id.ts';

/** The systems that are built in, by what they are called by, with their names. */
export const ownSystems: ReadonlyMap<string, string> = new Map([
  [directoryId, directoryName],
  [equipmentId, equipmentName],
]);
