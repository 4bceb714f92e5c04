import { bpmnOf } from '../../../core/formats/index.ts';
import { placesAtStart } from '../../../core/items/index.ts';
import { freeze, namingOf, stepSentence, analyseAssignment } from '../../../core/plans/index.ts';
import { draftOf } from '../../../server/items/queries.ts';
import { attached } from '../attached.server';
import { orNotFound, isId, signedIn } from '../session.server';
import type { Route } from './+types/bpmn';

/** The draft's plan as a BPMN 2.0 file. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const { draft, kind, catalogue } = orNotFound(isId(params.id) ? await draftOf(signedIn(context, request), params.id) : undefined, 'This item');
  const naming = namingOf(analyseAssignment(draft.plan.steps, placesAtStart(draft, kind, catalogue), catalogue, () => undefined).anywhere, catalogue);
  const xml = await bpmnOf(freeze(draft.plan, catalogue), draft.name, (step) => stepSentence(step, naming, catalogue));
  const file = `${draft.name.replace(/[^\p{L}\p{N}]+/gu, '-')}.bpmn`;
  return new Response(xml, {
    headers: { 'content-type': 'application/xml; charset=utf-8', 'content-disposition': attached(file) },
  });
}
