import { and, eq } from 'drizzle-orm';
import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { agreements, ruleWords, type Gate } from '../../core/plans/index.ts';
import { lineFor } from '../../core/policies/index.ts';
import { isGroup, isPerson, isReference, type Value } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db, type Reader } from '../db/database.ts';
import { groupPerson, person, policy, team } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { lookUp } from '../runtime/approvers.ts';
import { namesFor, valueWords } from '../runtime/words.ts';

/** A sentence for each gate the present answers will raise, with the names of who will be asked. */
export async function agreementSentences(viewer: Viewer, definition: ItemDefinition, answers: Answers): Promise<string[]> {
  const read = (ref: string): Value | undefined =>
    ref === 'request.requester' ? { person: viewer.id } : ref.startsWith('form.') ? answers[ref.slice(5)] : undefined;
  const sentences: string[] = [];
  for (const { gate, certain } of agreements(definition.plan, answers)) {
    const who = gate.approvers && (await approversNow(db(), viewer, gate.approvers, read, definition));
    if (!who) continue;
    const rule = who.many ? `: ${ruleWords(who.rule ?? gate.rule)}` : '';
    sentences.push(`${certain ? '' : 'It may be that '}${certain ? capital(who.words) : who.words} must agree${rule}.`);
  }
  return sentences;
}

interface Who {
  words: string;
  many: boolean;
  rule?: Gate['rule'];
}
type Approvers = NonNullable<Gate['approvers']>;

/** Who would be asked now; undefined when nobody need agree. */
async function approversNow(
  tx: Reader,
  viewer: Viewer,
  a: Approvers,
  read: (ref: string) => Value | undefined,
  definition: ItemDefinition,
): Promise<Who | undefined> {
  const label = (ref: string) => definition.form.fields.find((f) => `form.${f.id}` === ref)?.label.toLowerCase() ?? 'the person';
  const named = async (ids: string[]): Promise<string[]> => {
    const values = ids.map((id) => ({ person: id }));
    const names = await namesFor(tx, values);
    return values.map((v) => valueWords(v, names));
  };
  const chain = async (of: string, levels: number): Promise<Who> => {
    const { people } = await db().transaction((t) => lookUp(t, { from: 'chain', person: of, levels }, viewer.id));
    const above = await named(people.map((p) => p.person));
    return { words: above.length ? `${list(above)}, one after another,` : 'whoever stands in for a manager', many: false };
  };
  switch (a.from) {
    case 'people': {
      const names = await named(a.people.map((p) => p.person));
      return { words: list(names), many: names.length > 1 };
    }
    case 'team': {
      const [row] = isId(a.team) ? await tx.select({ name: team.name }).from(team).where(eq(team.id, a.team)) : [];
      return { words: row ? `the team ${row.name}` : 'a team that does not exist any more', many: true };
    }
    case 'policy': {
      const [row] = isId(a.policy) ? await tx.select({ definition: policy.definition }).from(policy).where(eq(policy.id, a.policy)) : [];
      const values = Object.fromEntries(Object.entries(a.inputs).map(([name, o]) => [name, isReference(o) ? (read(o.ref) ?? null) : o.literal]));
      const line = row && lineFor(row.definition, values);
      if (!line) return { words: `whoever the policy ${row?.definition.name ?? ''} names`, many: false };
      const { approvers, rule } = line;
      if (approvers.from === 'nobody') return undefined;
      if (approvers.from === 'chain') return chain(viewer.id, approvers.levels);
      const inner = await approversNow(tx, viewer, approvers, read, definition);
      return inner && { ...inner, rule };
    }
    case 'ownersOf': {
      const value = read(a.group.ref);
      if (!isGroup(value)) return { words: `the owners of the ${label(a.group.ref)} you pick`, many: true };
      const group = valueWords(value, await namesFor(tx, [value]));
      const owners = await tx
        .select({ name: person.name })
        .from(groupPerson)
        .innerJoin(person, eq(person.id, groupPerson.personId))
        .where(and(eq(groupPerson.groupId, value.group), eq(groupPerson.as, 'owner'), eq(person.active, true)))
        .orderBy(person.name);
      if (owners.length === 0) return { words: `since ${group} has no owner, whoever stands in for one`, many: false };
      return { words: `the owners of ${group} (${list(owners.map((o) => o.name))})`, many: owners.length > 1 };
    }
    default: {
      const value = read(a.person.ref);
      if (Array.isArray(value)) {
        const names = await named(value.flatMap((v) => (isPerson(v) ? [v.person] : [])));
        return { words: list(names), many: names.length > 1 };
      }
      if (!isPerson(value)) return { words: `${a.from === 'person' ? '' : 'the manager of '}the ${label(a.person.ref)} you pick`, many: false };
      if (a.from === 'person') return { words: list(await named([value.person])), many: false };
      if (a.from === 'chain') return chain(value.person, a.levels);
      const { people } = await db().transaction((t) => lookUp(t, { from: 'managerOf', person: value.person, levels: a.levels ?? 1 }, viewer.id));
      if (!people[0]) return { words: 'whoever stands in for a manager', many: false };
      return { words: `${list(await named([people[0].person]))} (manager)`, many: false };
    }
  }
}
const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);
const list = (names: string[]) => (names.length > 1 ? `${names.slice(0, -1).join(', ')} and ${names.at(-1)}` : (names[0] ?? ''));
