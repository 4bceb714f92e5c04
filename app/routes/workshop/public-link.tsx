import { Form, useNavigation } from 'react-router';
import { toast } from 'sonner';
import type { ItsLink } from '../../../server/outside/links.ts';
import { Button } from '~/ui/button';
import { useHydrated } from '~/ui/choices';

/** The link by which people from outside ask for an item: to be given to them, made anew, and closed. */
export function PublicLink({ offered, link, action }: ItsLink & { action: string }) {
  const busy = useNavigation().formMethod === 'POST';
  const hydrated = useHydrated();
  return (
    <section aria-label="Public link" className="mt-5">
      <h3 className="mb-1 font-medium">Public link</h3>
      <p className="mb-2 text-sm text-faint">
        {!offered
          ? 'What is published now cannot be asked for from outside: until it can, the link leads nowhere.'
          : link === undefined
            ? 'It can be asked for from outside, and there is no link yet.'
            : 'Whoever has it can ask, once they have confirmed by mail.'}
      </p>
      {link !== undefined && (
        <label className="mb-2 block">
          <span className="sr-only">Address of the public link</span>
          <input readOnly value={link} className="input numbers text-sm" onFocus={(e) => e.currentTarget.select()} />
        </label>
      )}
      <Form method="post" action={action} className="flex flex-wrap gap-2" preventScrollReset>
        {link !== undefined && hydrated && (
          <Button
            onClick={() =>
              void navigator.clipboard.writeText(link).then(
                () => toast('The link is copied'),
                () => toast('The browser did not allow it. Mark the link and copy it by hand.'),
              )
            }
          >
            Copy it
          </Button>
        )}
        {offered && (
          <Button
            type="submit"
            name="link"
            value="make"
            disabled={busy}
            {...(link !== undefined && { 'data-tip': 'The one there is leads nowhere then' })}
          >
            {link === undefined ? 'Make the link' : 'Make another in its place'}
          </Button>
        )}
        {link !== undefined && (
          <Button type="submit" name="link" value="close" disabled={busy}>
            Close it
          </Button>
        )}
      </Form>
    </section>
  );
}
