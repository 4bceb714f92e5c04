import { data } from 'react-router';
import { limits } from '../../../server/auth/limits.ts';
import { decideByLink } from '../../../server/approvals/commands.ts';
import { approvalByLink } from '../../../server/approvals/queries.ts';
import { ApprovalSheet } from '~/ui/approval-sheet';
import { ButtonLink } from '~/ui/button';
import { StateMark } from '~/ui/state-mark';
import { ReaderZone } from '~/ui/now';
import { posted, refused, visitOf } from '../session.server';
import type { Route } from './+types/decide';
import { decisionFrom } from './decision.server';

export const meta = () => [{ title: 'Your approval is asked for · Nessmoor' }, { name: 'robots', content: 'noindex' }];

/** Looking changes nothing, so that a mail program that opens links by itself decides nothing. */
export async function loader({ context, params }: Route.LoaderArgs) {
  return { approval: await linked(params.token, visitOf(context).address) };
}

/** What the link leads to. Made-up links are counted, and after so many nothing is looked up; old ones of ours are not. */
async function linked(token: string, address: string) {
  const wait = await limits.linkBlocked(address);
  if (wait > 0) throw data(`Too many tries. Try again in ${wait} seconds.`, { status: 429 });
  const { approval, known } = await approvalByLink(token);
  if (!known) await limits.link(address);
  return approval;
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const asked = await linked(params.token, visitOf(context).address);
  const decision = await decisionFrom({ roles: [] }, await posted(request, 20_000), asked?.correctable ?? { fields: [] });
  const result = await decideByLink({ token: params.token, ...decision });
  return result.ok ? { done: decision.decision } : refused(result, { comment: decision.comment });
}

export default function Decide({ loaderData: { approval }, actionData }: Route.ComponentProps) {
  const refusal = actionData && 'refusal' in actionData ? actionData : undefined;
  return (
    <main id="main" className="mx-auto min-h-screen max-w-2xl bg-sheet px-4 py-8 sm:px-8">
      <p className="mb-6 font-serif text-lg font-semibold tracking-tight">Nessmoor</p>
      {actionData && 'done' in actionData ? (
        <div role="status">
          <h1 className="flex items-center gap-3 font-serif text-2xl">
            <StateMark kind={actionData.done === 'approve' ? 'done' : 'declined'} size={20} />{' '}
            {{ approve: 'Approved', decline: 'Declined', sendBack: 'Sent back' }[actionData.done]}
          </h1>
          <p className="my-4">Your answer was taken; the link is used up. You can close this page.</p>
        </div>
      ) : approval ? (
        <>
          <h1 className="sr-only">Your approval is asked for</h1>
          <ReaderZone.Provider value={approval.zone}>
            <ApprovalSheet a={approval} refusal={refusal?.refusal} comment={refusal?.comment} />
          </ReaderZone.Provider>
        </>
      ) : (
        <>
          <h1 className="font-serif text-2xl">{refusal ? 'Nothing was changed' : 'This link does not work any more'}</h1>
          <p className="my-4">
            {refusal?.refusal.sentence ?? 'It was used already, is too old, or was cut short by a mail program. Sign in to see what waits for you.'}
          </p>
          <ButtonLink to="/desk/approvals">Sign in and see my approvals</ButtonLink>
        </>
      )}
    </main>
  );
}
