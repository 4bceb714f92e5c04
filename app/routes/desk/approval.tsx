import { Link } from 'react-router';
import { decide } from '../../../server/approvals/commands.ts';
import { approvalFor } from '../../../server/approvals/queries.ts';
import { newToken } from '../../../server/auth/token.ts';
import { writeOnRequest } from '../../../server/conversation/request.ts';
import { alsoRead, WriteWords } from '~/conversation/write-words';
import { caseNumber } from '~/ui/case-number';
import { ApprovalSheet } from '~/ui/approval-sheet';
import { useOutcome } from '~/ui/outcome';
import { orNotFound, isId, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/approval';
import { decisionFrom } from './decision.server';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData ? caseNumber(loaderData.a.kind, loaderData.a.number) : 'Approval'} · Desk · Nessmoor` },
];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const a = orNotFound(isId(params.id) ? await approvalFor(viewer, params.id) : undefined, 'This approval');
  return { a, once: newToken() };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const asked = orNotFound(isId(params.id) ? await approvalFor(viewer, params.id) : undefined, 'This approval');
  const form = await posted(request);
  if (form.get('act') === 'write') {
    const word = { number: asked.number, words: form.get('words'), once: form.get('once') };
    const written = await writeOnRequest(viewer, word);
    return written.ok ? { sent: word.once } : refused(written, { comment: undefined, words: word.words });
  }
  const decision = await decisionFrom(viewer, form, asked.correctable);
  const result = await decide(viewer, { approvalId: params.id, ...decision });
  return result.ok ? null : refused(result, { comment: decision.comment, words: undefined });
}

export default function Approval({ loaderData: { a, once }, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  const failed = actionData && 'refusal' in actionData ? actionData : undefined;
  const notSent = failed?.words === undefined ? undefined : { ...failed, words: failed.words };
  const sent = actionData && 'sent' in actionData ? actionData.sent : '';
  return (
    <div className="min-w-0 bg-inherit">
      <Link to="/desk/approvals" className="mb-4 inline-block text-sea underline underline-offset-4 lg:hidden">
        All approvals for me
      </Link>
      <ApprovalSheet
        key={a.id}
        a={a}
        refusal={notSent ? undefined : failed?.refusal}
        comment={failed?.comment}
        write={
          a.status === 'waiting' &&
          a.kind === 'request' && (
            <details className="mt-3" open={notSent !== undefined}>
              <summary className="cursor-pointer text-sea">Write to {a.requester.name.split(' ')[0]} before you decide</summary>
              <WriteWords
                key={sent}
                label={`Write to ${a.requester.name.split(' ')[0]!}`}
                help={`It goes out by mail and stands on their page of the request${alsoRead(a.readAlong)}. Nothing is decided by it.`}
                once={once}
                sent={sent}
                failed={notSent}
                files={false}
              />
            </details>
          )
        }
      />
    </div>
  );
}
