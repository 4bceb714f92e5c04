import { webActionSpecs, type Listing, type WebAction } from '../../core/systems/index.ts';
import type { ActionSpec } from '../../core/plans/index.ts';
import type { Reader } from '../db/database.ts';
import { webSystem } from '../db/schema/index.ts';
import { ownActionSpecs } from '../systems/index.ts';
import { ownSystems } from '../systems/own.ts';
import { systemOf } from '../systems/whose.ts';
import type { Registered } from '../systems/web/send.ts';

/** An action whose things a system lists: what it takes and gives. */
export interface Lists {
  spec: ActionSpec & { gives: NonNullable<ActionSpec['gives']> };
  /** Of a registered system: how its list is read. */
  web?: { action: WebAction; listing: Listing };
}

/** A system that says what it has, and of which of its actions. */
export interface Readable {
  id: string;
  name: string;
  lists: Lists[];
  web?: Registered;
}

const giving = (spec: ActionSpec): Lists['spec'] | undefined => (spec.gives ? { ...spec, gives: spec.gives } : undefined);

/** The systems whose lists can be read: what they have is compared with what is held here. */
export async function readable(tx: Reader): Promise<Readable[]> {
  const own = [...ownSystems].map(([id, name]): Readable => {
    const specs = ownActionSpecs.filter((s) => systemOf(s.id) === id);
    return { id, name, lists: specs.flatMap((s) => giving(s) ?? []).map((spec) => ({ spec })) };
  });
  const systems = await tx.select().from(webSystem).orderBy(webSystem.name);
  const registered = systems.map((row): Readable => {
    const specs = webActionSpecs(row.id, row.definition);
    const lists = row.definition.actions.flatMap((action, n) => {
      const spec = giving(specs[n]!);
      return spec && action.listing ? [{ spec, web: { action, listing: action.listing } }] : [];
    });
    return { id: row.id, name: row.name, lists, web: row };
  });
  return [...own, ...registered.filter((r) => r.lists.length > 0)];
}
