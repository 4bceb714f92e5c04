import { redirect } from 'react-router';
import { isId } from '../session.server';
import type { Route } from './+types/was-tasks';

/** Tasks stood here before tickets stood with them in one queue; mails and marks of old lead here. */
export const loader = ({ params, request }: Route.LoaderArgs) =>
  redirect(`/desk/queue${params.id !== undefined && isId(params.id) ? `/tasks/${params.id}` : ''}${new URL(request.url).search}`, 301);
