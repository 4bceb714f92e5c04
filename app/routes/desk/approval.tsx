import { Link } from 'react-router';
import { decide } from '../../../server/approvals/commands.ts';
import { approvalFor } from '../../../server/approvals/queries.ts';
import { caseNumber } from '~/ui/case-number';
import { ApprovalSheet } from '~/ui/approval-sheet';
import { useOutcome } from '~/ui/outcome';
import { orNotFound, isId, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/approval';
import { decisionFrom } from './decision.server';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData ? caseNumber(loaderData.kind, loaderData.number) : 'Approval'} · Desk · Nessmoor` },
];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  return orNotFound(isId(params.id) ? await approvalFor(viewer, params.id) : undefined, 'This approval');
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const asked = orNotFound(isId(params.id) ? await approvalFor(viewer, params.id) : undefined, 'This approval');
  const decision = await decisionFrom(viewer, await posted(request), asked.correctable);
  const result = await decide(viewer, { approvalId: params.id, ...decision });
  return result.ok ? null : refused(result, { comment: decision.comment });
}

export default function Approval({ loaderData, ...props }: Route.ComponentProps) {
  const actionData = useOutcome(props.actionData);
  return (
    <div className="min-w-0 bg-inherit">
      <Link to="/desk/approvals" className="mb-4 inline-block text-sea underline underline-offset-4 lg:hidden">
        All approvals for me
      </Link>
      <ApprovalSheet key={loaderData.id} a={loaderData} refusal={actionData?.refusal} comment={actionData?.comment} />
    </div>
  );
}
