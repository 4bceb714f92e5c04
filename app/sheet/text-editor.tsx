import { lazy, Suspense } from 'react';
import type { Place } from '../../core/plans/index.ts';
import { plainText, type RichText } from '../../core/values/index.ts';
import type { Manner } from './text-document';

// One that could not be fetched is fetched anew when it is wanted again.
const load = () =>
  import('./rich-editor').catch((error: unknown) => {
    RichEditor = lazy(load);
    throw error;
  });
let RichEditor = lazy(load);

/** Fetches the editor, so that it is there at once when it is shown. */
export const loadEditor = (): Promise<unknown> => load();

export interface TextEditorProps {
  id: string;
  label: string;
  value: RichText;
  places: Place[];
  manner: Manner;
  /** Asked once, at the moment it is there: what it holds from then on in place of what stood here meanwhile, and whether the keyboard was in that. */
  takeOver?: () => { text: RichText; focused: boolean } | undefined;
  onChange: (text: RichText) => void;
}

/** Text with values picked from a list, kept as structured pieces and never as HTML. */
export function TextEditor(props: TextEditorProps) {
  const { value, places, manner } = props;
  const words = plainText(value, (ref) => places.find((p) => p.ref === ref)?.label ?? 'a value that does not exist');
  return (
    <Suspense fallback={<p className={`input text-faint ${manner === 'line' ? '' : 'min-h-28'}`}>{words}</p>}>
      <RichEditor {...props} />
    </Suspense>
  );
}
