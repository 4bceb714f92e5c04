import { Block, type Step } from '../../core/plans/index.ts';

const place = 'nessmoor.steps';

/** Steps on their way from one plan to another: kept in this browser, and on the clipboard as JSON for elsewhere. */
export function copySteps(steps: Step[], item: string): void {
  const text = JSON.stringify({ nessmoor: 'steps', item, steps });
  localStorage.setItem(place, text);
  void navigator.clipboard?.writeText(text).catch(() => undefined);
}

/** What was copied last, and of which item it was. */
export function copiedSteps(): { ok: true; steps: Step[]; item: string } | { ok: false; sentence: string } {
  const text = localStorage.getItem(place);
  if (!text) return { ok: false, sentence: 'Nothing has been copied yet. Select a step and press Ctrl C.' };
  try {
    const { steps, item } = JSON.parse(text) as { steps?: unknown; item?: unknown };
    const parsed = Block.safeParse(steps);
    return parsed.success
      ? { ok: true, steps: parsed.data, item: String(item) }
      : { ok: false, sentence: 'What was copied does not fit here any more. Copy it again.' };
  } catch {
    return { ok: false, sentence: 'What was copied cannot be read. Copy it again.' };
  }
}
