import { data } from 'react-router';
import { keepFile } from '../../server/files/keep.ts';
import { postedWithFiles, signedIn } from './session.server';
import type { Route } from './+types/files';

/** Takes files that are attached while a form is still being filled in. */
export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  let answer: object | undefined;
  await postedWithFiles(request, async (field, name, stream) => {
    if (field !== 'file' || answer) return undefined;
    const kept = await keepFile(viewer, { name, stream });
    answer = kept.ok ? { file: kept.file } : { sentence: kept.sentence };
    return undefined;
  });
  return answer ? data(answer, { status: 'file' in answer ? 201 : 422 }) : data({ sentence: 'No file was sent.' }, { status: 400 });
}
