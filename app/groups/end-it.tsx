import { Form, useNavigation } from 'react-router';
import { Button } from '~/ui/button';

/** Ends the condition: those who are in by it stay, or go out. */
export function EndIt({ version, byIt }: { version: number; byIt: number }) {
  const busy = useNavigation().state !== 'idle';
  const those = byIt === 1 ? 'the one person' : `the ${byIt.toLocaleString('en')} people`;
  return (
    <details className="mt-6 border-t pt-3 text-sm">
      <summary className="cursor-pointer py-0.5 text-sea">End the condition …</summary>
      <Form method="post" className="mt-2 flex flex-wrap items-center gap-3">
        <input type="hidden" name="version" value={version} />
        <Button type="submit" name="act" value="endStay" disabled={busy}>
          {byIt === 0 ? 'End it' : `End it, and leave ${those} in who ${byIt === 1 ? 'is' : 'are'} in by it`}
        </Button>
        {byIt > 0 && (
          <Button type="submit" name="act" value="endOut" weight="decline" disabled={busy}>
            End it, and take them out
          </Button>
        )}
      </Form>
    </details>
  );
}
