import type { SyntaxNode, Tree } from '@lezer/common';
import { parser } from 'lezer-feel';
import { partNames, placeHeads as heads } from '../values/index.ts';

/** An expression as it is worked out: names are settled, whatever only helped to write it down is gone. */
export type Node =
  | { is: 'number' | 'string'; text: string }
  | { is: 'constant'; value: boolean | null }
  | { is: 'place'; ref: string }
  | { is: 'local'; name: string }
  | { is: 'property'; of: Node; name: string }
  | { is: 'list'; items: Node[] }
  | { is: 'context'; entries: { key: string; value: Node }[] }
  | { is: 'call'; name: string; args: Node[]; named?: string[] }
  | { is: 'arithmetic'; op: '+' | '-' | '*' | '/' | '**'; left: Node; right: Node }
  | { is: 'minus'; of: Node }
  | { is: 'compare'; op: '=' | '!=' | '<' | '<=' | '>' | '>='; left: Node; right: Node }
  | { is: 'between'; of: Node; low: Node; high: Node }
  | { is: 'in'; of: Node; tests: Node[] }
  | { is: 'interval'; low: Node; high: Node; lowIn: boolean; highIn: boolean }
  | { is: 'bound'; op: '<' | '<=' | '>' | '>=' | '=' | '!='; of: Node }
  | { is: 'and' | 'or'; left: Node; right: Node }
  | { is: 'if'; test: Node; then: Node; otherwise: Node }
  | { is: 'for'; loops: Loop[]; body: Node }
  | { is: 'some' | 'every'; loops: Loop[]; body: Node }
  | { is: 'filter'; of: Node; by: Node }
  | { is: 'function'; parameters: string[]; body: Node }
  | { is: 'instance'; of: Node; type: string };
/** One `name in list` of a for, some or every. */
export interface Loop {
  name: string;
  over: Node;
  /** Of `in 1..5`: the other end. */
  to?: Node;
}

/** Why an expression cannot be read; `at` is the character. */
export class Unreadable extends Error {
  constructor(
    message: string,
    readonly at?: number,
  ) {
    super(message);
  }
}

/** A part of a place's value that is named: the amount of a sum. */
export interface Parted {
  ref: string;
  part: string;
}
interface Reading {
  tree: Node;
  refs: Set<string>;
  parted: Parted[];
}

/**
 * Reads an expression (FEEL, OMG DMN 1.3, chapter 10.3). Every name in it is a place, a name of its own or a function of
 * the standard; anything else is Unreadable.
 */
export function readTree(feel: string, functions: ReadonlySet<string>): Reading {
  const refs = new Set<string>();
  const parted: Parted[] = [];
  const tree: Tree = parser.configure({ top: 'Expression' }).parse(feel);
  let broken: number | undefined;
  tree.iterate({ enter: (n) => void (n.type.isError && (broken ??= n.from)) });
  if (broken !== undefined) throw new Unreadable(`This is not a whole expression: it breaks off at character ${broken + 1}.`, broken);

  const textOf = (n: SyntaxNode) => feel.slice(n.from, n.to);
  const nameOf = (n: SyntaxNode) => textOf(n).trim().replace(/\s+/g, ' ');
  const children = (n: SyntaxNode): SyntaxNode[] => {
    const found: SyntaxNode[] = [];
    for (let c = n.firstChild; c; c = c.nextSibling) if (!/^(LineComment|BlockComment)$/.test(c.name)) found.push(c);
    return found;
  };
  /** Children that mean something by themselves: no brackets, commas and words of the grammar. */
  const parts = (n: SyntaxNode) => children(n).filter((c) => /^[A-Z]/.test(c.name) || c.name === 'null' || c.name === '?');
  const only = (n: SyntaxNode) => {
    const [first] = parts(n);
    if (!first) throw new Unreadable(`“${textOf(n)}” cannot be used here.`, n.from);
    return first;
  };
  type Locals = ReadonlySet<string>;
  const and = (locals: Locals, ...more: string[]): Locals => new Set([...locals, ...more]);

  /** The names of a path, when it is made of names only. */
  function names(n: SyntaxNode): string[] | undefined {
    if (n.name === 'VariableName') return [nameOf(n)];
    if (n.name !== 'PathExpression') return undefined;
    const [of, last] = parts(n);
    const before = of && names(of);
    return before && last && [...before, nameOf(last)];
  }

  function path(n: SyntaxNode, locals: Locals): Node {
    const all = names(n);
    const more = all && !locals.has(all[0]!) ? heads.get(all[0]!) : undefined;
    if (all && more !== undefined) {
      if (all.length < more + 1) throw new Unreadable(`“${all.join('.')}” is not a value; pick one.`, n.from);
      // After the place itself comes a column of the row that stands there, or a part of the value, or both.
      const length = more + 1 + (all.length > more + 1 && !partNames.has(all[more + 1]!) ? 1 : 0);
      const ref = all.slice(0, length).join('.');
      const [part, ...deeper] = all.slice(length);
      if (part !== undefined && (deeper.length > 0 || !partNames.has(part)))
        throw new Unreadable(`“${ref}” has no part called “${all.slice(length).join('.')}”.`, n.from);
      refs.add(ref);
      if (part === undefined) return { is: 'place', ref };
      parted.push({ ref, part });
      return { is: 'property', of: { is: 'place', ref }, name: part };
    }
    const [of, last] = parts(n);
    return { is: 'property', of: read(of!, locals), name: nameOf(last!) };
  }

  function loops(n: SyntaxNode, locals: Locals): { loops: Loop[]; inside: Locals } {
    let inside = locals;
    const found: Loop[] = [];
    for (const one of parts(n)) {
      const [name, over] = parts(one);
      const range = parts(over!);
      const loop: Loop = { name: nameOf(name!), over: read(range[0]!, inside), ...(range[1] && { to: read(range[1], inside) }) };
      found.push(loop);
      inside = and(inside, loop.name);
    }
    return { loops: found, inside };
  }

  function call(n: SyntaxNode, locals: Locals): Node {
    const [callee, given] = parts(n);
    const name = nameOf(callee!);
    if (!functions.has(name)) {
      if (name === 'now' || name === 'today') throw new Unreadable(`${name}() cannot be used here; pick the value “Now” instead.`, n.from);
      throw new Unreadable(`There is no function “${name}” here.`, n.from);
    }
    if (!given) return { is: 'call', name, args: [] };
    if (given.name !== 'NamedParameters') return { is: 'call', name, args: parts(given).map((a) => read(a, locals)) };
    const pairs = parts(given).map((p) => parts(p));
    return { is: 'call', name, args: pairs.map(([, value]) => read(value!, locals)), named: pairs.map(([key]) => nameOf(key!)) };
  }

  function test(n: SyntaxNode, locals: Locals): Node {
    if (n.name === 'PositiveUnaryTest' || n.name === 'SimplePositiveUnaryTest') {
      const all = parts(n);
      if (all[0]?.name === 'CompareOp') return { is: 'bound', op: textOf(all[0]).trim() as '<', of: read(all[1]!, locals) };
      return test(only(n), locals);
    }
    return read(n, locals);
  }

  function read(n: SyntaxNode, locals: Locals): Node {
    const all = parts(n);
    const [a, b, c] = all;
    switch (n.name) {
      case 'Expression':
      case 'ParenthesizedExpression':
      case 'FunctionBody':
        return read(only(n), locals);
      case 'PositiveUnaryTest':
      case 'SimplePositiveUnaryTest':
        return test(n, locals);
      case 'NumericLiteral':
        return { is: 'number', text: textOf(n).replace(/\s/g, '') };
      case 'StringLiteral':
        return { is: 'string', text: unquoted(textOf(n)) };
      case 'BooleanLiteral':
        return { is: 'constant', value: textOf(n) === 'true' };
      case 'null':
        return { is: 'constant', value: null };
      case 'VariableName': {
        const name = nameOf(n);
        if (locals.has(name)) return { is: 'local', name };
        if (heads.has(name)) throw new Unreadable(`“${name}” is not a value; pick one.`, n.from);
        throw new Unreadable(`“${name.slice(0, 40)}” is not known here.`, n.from);
      }
      case 'PathExpression':
        return path(n, locals);
      case 'List':
        return { is: 'list', items: all.map((x) => read(x, locals)) };
      case 'Context': {
        let inside = locals;
        const entries: { key: string; value: Node }[] = [];
        for (const entry of all) {
          const [key, value] = parts(entry);
          const word = textOf(key!).trim();
          const name = word.startsWith('"') ? unquoted(word) : nameOf(key!);
          entries.push({ key: name, value: read(value!, inside) });
          inside = and(inside, name);
        }
        return { is: 'context', entries };
      }
      case 'ArithmeticExpression': {
        if (a?.name === 'ArithOp') return { is: 'minus', of: read(b!, locals) };
        const op = textOf(b!).trim();
        return { is: 'arithmetic', op: (op === '^' ? '**' : op) as '+', left: read(a!, locals), right: read(c!, locals) };
      }
      case 'Comparison': {
        if (b?.name === 'CompareOp') return { is: 'compare', op: textOf(b).trim() as '=', left: read(a!, locals), right: read(c!, locals) };
        if (children(n).some((x) => x.name === 'between'))
          return { is: 'between', of: read(a!, locals), low: read(b!, locals), high: read(c!, locals) };
        const tests = b!.name === 'PositiveUnaryTests' ? parts(b!) : [b!];
        return { is: 'in', of: read(a!, locals), tests: tests.map((t) => test(t, and(locals, '?'))) };
      }
      case 'Interval': {
        const words = textOf(n).trim();
        return { is: 'interval', low: read(a!, locals), high: read(b!, locals), lowIn: words.startsWith('['), highIn: words.endsWith(']') };
      }
      case 'Conjunction':
        return { is: 'and', left: read(a!, locals), right: read(b!, locals) };
      case 'Disjunction':
        return { is: 'or', left: read(a!, locals), right: read(b!, locals) };
      case 'IfExpression':
        return { is: 'if', test: read(a!, locals), then: read(b!, locals), otherwise: read(c!, locals) };
      case 'ForExpression': {
        const { loops: all2, inside } = loops(a!, locals);
        return { is: 'for', loops: all2, body: read(b!, and(inside, 'partial')) };
      }
      case 'QuantifiedExpression': {
        const { loops: all2, inside } = loops(a!, locals);
        return { is: textOf(n).startsWith('some') ? 'some' : 'every', loops: all2, body: read(b!, inside) };
      }
      case 'FilterExpression':
        return { is: 'filter', of: read(a!, locals), by: read(b!, and(locals, 'item')) };
      case 'FunctionInvocation':
        return call(n, locals);
      case 'FunctionDefinition': {
        const parameters = a?.name === 'FormalParameters' ? parts(a).map(nameOf) : [];
        return { is: 'function', parameters, body: read((a?.name === 'FormalParameters' ? b : a)!, and(locals, ...parameters)) };
      }
      case 'DateTimeLiteral': {
        if (a?.name === 'AtLiteral') return { is: 'call', name: '@', args: [read(only(a), locals)] };
        return call(n, locals);
      }
      case 'InstanceOfExpression':
        return { is: 'instance', of: read(a!, locals), type: nameOf(b!) };
      case '?':
        return { is: 'local', name: '?' };
      default:
        throw new Unreadable(`“${textOf(n).slice(0, 40)}” cannot be used here.`, n.from);
    }
  }
  return { tree: read(tree.topNode, new Set()), refs, parted };
}

/** A string literal without its quotes, its escapes read (DMN 1.3, 10.3.1.2, rule 33). */
function unquoted(literal: string): string {
  const escapes: Record<string, string> = { n: '\n', r: '\r', t: '\t' };
  return literal.slice(1, -1).replace(/\\(?:u([0-9A-Fa-f]{4})|U([0-9A-Fa-f]{6})|(.))/gs, (whole, u4?: string, u6?: string, one?: string) => {
    const code = u4 ?? u6;
    if (code !== undefined) return parseInt(code, 16) <= 0x10ffff ? String.fromCodePoint(parseInt(code, 16)) : whole;
    return escapes[one!] ?? one!;
  });
}

/**
 * The places without whose value the expression gives nothing, or goes another way than it says: those read where no test
 * for null stands before them (`if a != null then a else 0`, `a != null and a > 2`).
 */
export function neededBy(tree: Node): Set<string> {
  const needed = new Set<string>();
  type Sure = ReadonlySet<string>;
  const plus = (sure: Sure, more: Iterable<string>): Sure => new Set([...sure, ...more]);

  function visit(n: Node, sure: Sure): void {
    const tested = nullTest(n);
    if (tested) return;
    switch (n.is) {
      case 'place':
        if (!sure.has(n.ref)) needed.add(n.ref);
        return;
      case 'if':
        visit(n.test, sure);
        visit(n.then, plus(sure, known(n.test, true)));
        return visit(n.otherwise, plus(sure, known(n.test, false)));
      case 'and':
      case 'or':
        visit(n.left, sure);
        return visit(n.right, plus(sure, known(n.left, n.is === 'and')));
      default:
        for (const child of childrenOf(n)) visit(child, sure);
    }
  }
  visit(tree, new Set());
  return needed;
}

/** `a != null` or `a = null`: the place, and whether the test holds when it has a value. */
function nullTest(n: Node): { ref: string; whenHas: boolean } | undefined {
  if (n.is !== 'compare' || (n.op !== '=' && n.op !== '!=')) return undefined;
  const nothing = (x: Node) => x.is === 'constant' && x.value === null;
  const place = nothing(n.right) ? n.left : nothing(n.left) ? n.right : undefined;
  return place?.is === 'place' ? { ref: place.ref, whenHas: n.op === '!=' } : undefined;
}

/** The places that have a value whenever a test holds, or whenever it does not. */
function known(n: Node, holds: boolean): string[] {
  const tested = nullTest(n);
  if (tested) return tested.whenHas === holds ? [tested.ref] : [];
  if ((n.is === 'and' && holds) || (n.is === 'or' && !holds)) return [...known(n.left, holds), ...known(n.right, holds)];
  return n.is === 'call' && n.name === 'not' && n.args[0] ? known(n.args[0], !holds) : [];
}

/** The nodes directly inside one. */
function childrenOf(n: Node): Node[] {
  return Object.values(n).flatMap((v: unknown): Node[] => {
    if (Array.isArray(v))
      return v.flatMap((x: unknown) => (isNode(x) ? [x] : typeof x === 'object' && x !== null ? Object.values(x).filter(isNode) : []));
    return isNode(v) ? [v] : [];
  });
}
const isNode = (v: unknown): v is Node => typeof v === 'object' && v !== null && 'is' in v;
