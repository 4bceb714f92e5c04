import fc from 'fast-check';
import { span, type AnyStep, type Made } from '../../testing/drawn.ts';
import { step, tell } from '../../testing/samples.ts';

export const any: AnyStep = (inner) =>
  fc
    .record({ body: inner, remedy: inner, deadline: fc.option(span), late: fc.option(inner) })
    .map(({ body: b, remedy, deadline, late }): Made => (id, blocks) => {
      const inside = blocks(b);
      return step('guard', id, {
        body: inside.length ? inside : [tell(`${id}x`, `Tell ${id}x`)],
        remedy: blocks(remedy),
        ...(deadline && { deadline }),
        ...(deadline && late && { late: blocks(late) }),
      });
    });
