import { Form, useNavigation } from 'react-router';
import { z } from 'zod';
import { FileNamePattern, namedInFile } from '../../core/evidence/index.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';

const Naming = z.object({ pattern: FileNamePattern });
const help = `In braces: ${Object.entries(namedInFile)
  .map(([name, words]) => `{${name}} ${words}`)
  .join(', ')}.`;

/** How files of evidence are named. */
export function FileNaming({ pattern, refusal, typed }: { pattern: string; refusal: Refusal | undefined; typed: string | undefined }) {
  const post = usePost(Naming, { refusal });
  const busy = useNavigation().state !== 'idle';
  return (
    <details className="border-t py-2" open={refusal !== undefined || undefined}>
      <summary className="cursor-pointer py-0.5 text-sm text-sea">How the file is named …</summary>
      <Form method="post" {...post.form} className="mt-2 max-w-2xl space-y-2">
        <Refused sentence={post.sentence} />
        <Labelled label="Name of the file" help={help} problem={post.problem('pattern')}>
          {(ids) => <input {...ids} name="pattern" className="input" maxLength={120} autoComplete="off" defaultValue={typed ?? pattern} />}
        </Labelled>
        <Button type="submit" disabled={busy}>
          Name files so
        </Button>
      </Form>
    </details>
  );
}
