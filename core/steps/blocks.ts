import type { Base } from './base.ts';
import type { Room } from './room.ts';
import type { Block, Branch } from './step.ts';

/** The blocks a step holds, in the order a reader meets them. */
export function branchesOf<S extends Base>(room: Pick<Room<S>, 'across'>, step: S): Branch[] {
  const found: Branch[] = [];
  room.across?.(step, (branch) => {
    found.push(branch);
    return branch.block;
  });
  return found;
}

/** For steps whose blocks are settings of their own: these, in reading order, where they are there. */
export const acrossSettings =
  <K extends string>(...ids: K[]) =>
  <S extends { [key in K]?: Block | undefined }>(step: S, change: (branch: Branch) => Block): S => {
    const next: { [key in K]?: Block } = {};
    for (const id of ids) {
      const block = step[id];
      if (block) next[id] = change({ id, block });
    }
    return { ...step, ...next };
  };
