import { z } from 'zod';
import { heard, line, own, setOwn } from '../boundary/index.ts';
import { Duration, secondsOf } from '../calendar/index.ts';
import { aboutSlot, type ActionSpec } from '../plans/index.ts';
import { fromPlain, Id, Plain, plainOf, typeWords, ValueType, type Value } from '../values/index.ts';
import { Later } from './later.ts';
import { Listing } from './listing.ts';
import { pointed, Pointer, Segments } from './pointer.ts';
import { SystemList } from './system-list.ts';

const Slot = z.object({ name: Id, label: line(80).trim().min(1, 'It needs a name.'), type: ValueType });

/** More words than this an input does not know: they are offered as a choice. */
export const mostKnown = 100;

/** One thing an HTTP system can be asked to do. */
export const WebAction = z
  .object({
    id: Id,
    label: line(80).trim().min(1, 'Every action needs a name.'),
    method: z.enum(['GET', 'POST', 'PUT', 'PATCH', 'DELETE']),
    /** Below the system's address; `{name}` stands for an input, written as a segment. Inputs not in the path go into the body as JSON. */
    path: Segments,
    /**
     * `made`: nobody states it; a secret is made for each call, such as a first password, and goes to whoever gets the sealed note.
     * `known`: nobody states it; it is as the action took or answered it that gave what this one is about.
     * `most`: of a number, more than which the system refuses. `oneOf`: of a text, all that the system knows.
     */
    inputs: z
      .array(
        Slot.extend({
          required: z.boolean(),
          made: z.boolean().optional(),
          known: z.boolean().optional(),
          most: z.number().optional(),
          oneOf: z.array(line(200).min(1)).min(1).max(mostKnown, `At most ${mostKnown} of them.`).optional(),
        }),
      )
      .max(30),
    /** `at`: where it stands in the JSON answer, as a JSON Pointer (RFC 6901). `secret`: it goes into a sealed note and nowhere else. */
    outputs: z
      .array(
        Slot.extend({
          at: Pointer,
          always: z.boolean(),
          secret: z.boolean().optional(),
        }),
      )
      .max(30),
    /** The action that makes its secrets anew, for whoever lost them; it takes what this one took and gave, by name. */
    anewBy: Id.optional(),
    undoneBy: Id.optional(),
    /** Answered that there is no such thing (404 or 410, RFC 9110), it is done: what it takes away is gone. */
    goneIsDone: z.boolean().optional(),
    /** It may be accepted first and answered later. Left out: it is done when it is answered. */
    later: Later.optional(),
    /** What is done again and again does not ask for it more often than once in so long (ISO 8601): the system would refuse it. */
    apart: Duration.refine((d) => secondsOf(d) >= 1, 'A second at least.')
      .refine((d) => secondsOf(d) <= 30 * 86_400, '30 days at most.')
      .optional(),
    /** What a person holds once it is done: of which kind, which input names the person, which output or input the thing, and which a date until which it is lent. */
    gives: z.object({ kind: line(40).trim().min(1, 'Say what it is, such as machine.'), person: Id, what: Id, until: Id.optional() }).optional(),
    /** It does something to what another action of the system gave (`of`); `until`: the output or the input that says until which day that is lent from now on. */
    about: z.object({ of: Id, until: Id.optional() }).optional(),
    /** Where the system lists what it has of what this gives: by it what is held is compared with what there is. */
    listing: Listing.optional(),
  })
  .refine((a) => !a.gives || a.inputs.some((i) => i.name === a.gives?.person && i.type === 'person'), {
    path: ['gives', 'person'],
    error: 'Whoever holds it is named by an input that is a person.',
  })
  .refine((a) => !a.gives || [...a.outputs, ...a.inputs].some((s) => s.name === a.gives?.what), {
    path: ['gives', 'what'],
    error: 'What they hold is an input or an output of this action.',
  })
  .refine((a) => a.gives?.until === undefined || [...a.outputs, ...a.inputs].some((s) => s.name === a.gives?.until && s.type === 'date'), {
    path: ['gives', 'until'],
    error: 'The last day is an input or an output of this action that is a date.',
  })
  .refine((a) => a.about?.until === undefined || [...a.outputs, ...a.inputs].some((s) => s.name === a.about?.until && s.type === 'date'), {
    path: ['about', 'until'],
    error: 'The last day is an input or an output of this action that is a date.',
  })
  .refine((a) => !a.about || !a.inputs.some((i) => i.name === aboutSlot.name), {
    path: ['about', 'of'],
    error: `No input of it is called “${aboutSlot.name}”: so the plan names what it is about.`,
  })
  .refine((a) => !a.listing || a.gives !== undefined, { path: ['listing', 'path'], error: 'Say first what a person holds after this action.' })
  .refine((a) => !a.listing || a.listing.what !== undefined || a.outputs.some((o) => o.name === a.gives?.what), {
    path: ['listing', 'what'],
    error: 'Say where a row of the list says what it is; the action does not answer that.',
  })
  .superRefine((a, ctx) => {
    const wrong = (path: (string | number)[], message: string) => ctx.addIssue({ code: 'custom', path, message });
    a.inputs.forEach((i, at) => {
      if (i.most !== undefined && i.type !== 'number') wrong(['inputs', at, 'most'], 'Only a number has a most.');
      if (i.oneOf && i.type !== 'text') wrong(['inputs', at, 'oneOf'], 'Only a text is one of those that are known.');
      if (i.oneOf && i.made) wrong(['inputs', at, 'oneOf'], 'A secret is none of those that are known.');
      if (i.known && !a.about) wrong(['inputs', at, 'name'], 'Say what this action is about; without that nothing is known of it.');
      if (i.known && i.made) wrong(['inputs', at, 'name'], 'It is made for each call, or known already; not both.');
      if (i.made && i.type !== 'text') wrong(['inputs', at, 'type'], 'A secret is a text.');
      // Addresses are written into logs on the way.
      if (i.made && a.path.includes(`{${i.name}}`)) wrong(['inputs', at, 'name'], 'A secret does not stand in the path.');
      if (i.made && a.gives?.what === i.name) wrong(['gives', 'what'], 'What they hold is no secret.');
    });
    if (a.goneIsDone && a.outputs.some((o) => o.always))
      wrong(['goneIsDone'], 'It answers something always, and of what is gone nothing is answered.');
    a.outputs.forEach((o, at) => {
      if (o.secret && o.type !== 'text') wrong(['outputs', at, 'type'], 'A secret is a text.');
      if (o.secret && a.gives?.what === o.name) wrong(['gives', 'what'], 'What they hold is no secret.');
    });
    // What is read in the clear is shown, kept and logged: a secret stands nowhere among it.
    const secrets = a.outputs.flatMap((o) => (o.secret ? [o.at] : []));
    for (const { at, path } of readOpenly(a))
      if (at !== undefined && secrets.some((s) => s === at || s.startsWith(`${at}/`) || at.startsWith(`${s}/`)))
        wrong(path, 'A secret stands there, which goes into a sealed note only.');
  });

/** Where an action reads something that is no secret, with where that is stated. */
const readOpenly = ({
  outputs,
  later,
  listing,
}: {
  outputs: { at: string; secret?: boolean | undefined }[];
  later?: Later | undefined;
  listing?: Listing | undefined;
}) => [
  ...outputs.flatMap((o, n) => (o.secret ? [] : [{ at: o.at, path: ['outputs', n, 'at'] }])),
  { at: later?.asked?.job, path: ['later', 'asked', 'job'] },
  { at: later?.state?.at, path: ['later', 'state', 'at'] },
  { at: later?.progress, path: ['later', 'progress'] },
  { at: later?.cause, path: ['later', 'cause'] },
  { at: listing?.who, path: ['listing', 'who'] },
  { at: listing?.what, path: ['listing', 'what'] },
];
export type WebAction = z.infer<typeof WebAction>;

/** What an action is about another one gave, and what is known of that it took or answered. */
function aboutOthers(actions: WebAction[], ctx: z.RefinementCtx): void {
  actions.forEach(({ about, inputs }, n) => {
    if (!about) return;
    const wrong = (path: (string | number)[], message: string) => ctx.addIssue({ code: 'custom', path: [n, ...path], message });
    const giving = actions.find((a) => a.id === about.of);
    if (!giving?.gives) return wrong(['about', 'of'], 'It is about what another action gives; choose one after which somebody holds something.');
    const slots = [...giving.outputs.filter((o) => !o.secret), ...giving.inputs.filter((i) => !i.made)];
    inputs.forEach((i, at) => {
      if (i.known && slots.find((s) => s.name === i.name)?.type !== i.type)
        wrong(['inputs', at, 'name'], `“${giving.label}” takes and answers nothing of this name and type that could be known.`);
    });
  });
}

/** An outside service reached over HTTP. Calls carry an Idempotency-Key, so that a repeat changes nothing twice. */
export const WebSystem = z.object({
  name: line(60).trim().min(1, 'The system needs a name.'),
  address: z
    .url({ protocol: /^https?$/, error: 'The address is an http or https URL.' })
    .max(500)
    // What stands before an @ would be shown with the address; a system's secret has a place of its own.
    .refine((a) => !/^https?:\/\/[^/]*@/.test(a), 'The address holds no name or password; the secret has a field of its own.')
    .refine((a) => !/[?#]/.test(a), 'The address has no ? or #.'),
  /** Addresses of the own network are refused unless this says that they are meant. */
  ownNetwork: z.boolean(),
  /** How long a call waits for its answer, in milliseconds. */
  timeoutMs: z.number().int().min(1000).max(120_000),
  actions: z.array(WebAction).max(50).superRefine(aboutOthers),
  /** What it lists that tables are read from. */
  lists: z
    .array(SystemList)
    .max(20)
    .superRefine((lists, ctx) =>
      lists.forEach((l, at) => {
        if (lists.findIndex((x) => x.label.toLowerCase() === l.label.toLowerCase()) < at)
          ctx.addIssue({ code: 'custom', path: [at, 'label'], message: `Two lists are called “${l.label}”.` });
      }),
    )
    .optional(),
});
export type WebSystem = z.infer<typeof WebSystem>;

/** The id of an action of a registered system, as plans name it. */
export const webActionId = (systemId: string, action: string): string => `web.${systemId}.${action}`;

/** The actions as the plan's catalogue offers them. */
export const webActionSpecs = (systemId: string, system: WebSystem): ActionSpec[] =>
  system.actions.map((a) => ({
    id: webActionId(systemId, a.id),
    system: system.name,
    label: a.label,
    inputs: a.inputs,
    outputs: a.outputs.map(({ name, label, type, always, secret }) => ({ name, label, type, always, ...(secret && { secret }) })),
    // Reading gives nobody anything, and neither does what takes back what another gave.
    grants: a.method !== 'GET' && (a.gives !== undefined || !system.actions.some((o) => o.undoneBy === a.id)),
    ...(a.later && { within: a.later.within }),
    ...(a.later?.words && { exchanges: a.later.words.say ? ('bothWays' as const) : ('here' as const) }),
    ...(a.apart && { apart: a.apart }),
    ...(a.gives && { gives: a.gives }),
    ...(a.about && { about: { ...a.about, of: webActionId(systemId, a.about.of) } }),
    ...(a.undoneBy && { undoneBy: webActionId(systemId, a.undoneBy) }),
    ...(a.anewBy && { anewBy: webActionId(systemId, a.anewBy) }),
  }));

/**
 * The request to send for these inputs, those the action takes: path segments are encoded, the rest is the JSON body. An
 * input that would leave its place in the path (nothing, `.`, `..`) is refused.
 */
export function webRequest(
  action: WebAction,
  inputs: Record<string, Value>,
): { ok: true; path: string; body: Record<string, unknown> | undefined } | { ok: false; sentence: string } {
  const used = new Set<string>();
  let bad: string | undefined;
  const path = action.path.replace(/\{(\w+)\}/g, (_, name: string) => {
    used.add(name);
    const segment = String(plainOf(own(inputs, name) ?? ''));
    if (/^\.{0,2}$/.test(segment)) bad ??= name;
    return encodeURIComponent(segment);
  });
  if (bad !== undefined) {
    const label = action.inputs.find((i) => i.name === bad)?.label ?? bad;
    return { ok: false, sentence: `“${label}” stands in the address and cannot be empty, “.” or “..”.` };
  }
  const rest = action.inputs.flatMap((i) =>
    used.has(i.name) || own(inputs, i.name) === undefined ? [] : [[i.name, plainOf(inputs[i.name]!)] as const],
  );
  return { ok: true, path, body: action.method === 'GET' ? undefined : Object.fromEntries(rest) };
}

/** Reads the outputs out of an answer; an answer that lacks one, or has another type there, is told. */
export function webOutputs(action: WebAction, answer: unknown): { ok: true; outputs: Record<string, Value> } | { ok: false; sentence: string } {
  const outputs: Record<string, Value> = {};
  for (const o of action.outputs) {
    const found = pointed(answer, o.at);
    const read = Plain.safeParse(found ?? null);
    if (!read.success) return { ok: false, sentence: `The answer has something at “${o.at}” that cannot be kept as “${o.label}”.` };
    if (read.data === null && o.always) return { ok: false, sentence: `The answer has nothing at “${o.at}”, where “${o.label}” should be.` };
    const typed = fromPlain(read.data, o.type);
    // What was to be secret and is something else is not told either.
    if (typed === undefined && o.secret) return { ok: false, sentence: `The answer has something at “${o.at}” that is not a ${typeWords[o.type]}.` };
    if (typed === undefined)
      return { ok: false, sentence: `The answer has ${heard(JSON.stringify(found) ?? '', 80)} at “${o.at}”, which is not a ${typeWords[o.type]}.` };
    setOwn(outputs, o.name, typed);
  }
  return { ok: true, outputs };
}
