import fc from 'fast-check';
import { span, type AnyStep } from '../../testing/drawn.ts';
import { step } from '../../testing/samples.ts';

export const any: AnyStep = () =>
  fc
    .oneof(
      span.map((s) => ({ span: s })),
      fc.constant({ date: { ref: 'form.from' } }),
    )
    .map((until) => (id: string) => step('pause', id, { until }));
