import { likelyAnswers } from '../../../server/tickets/likely.ts';
import { asked, signedIn } from '../session.server';
import type { Route } from './+types/likely';

/** What may answer a report while it is typed. */
export const loader = async ({ context, request }: Route.LoaderArgs) => likelyAnswers(signedIn(context, request), asked(request, 'words', 500));
