import { versionOf, versionsOf } from '../../../server/changes/versions.ts';
import type { Viewer } from '../../../server/auth/viewer.ts';
import { asked, numberIn } from '../session.server';

/** The versions of something that is live, and the one it is looked at in (`?as=`, or at the end of a day, `?day=`). */
export async function historyFor<V extends Parameters<typeof versionOf>[1]>(viewer: Viewer, request: Request, object: V, id: string) {
  const [version, day] = [numberIn(asked(request, 'as')), asked(request, 'day', 10)];
  const wanted = version > 0 || day !== '';
  return {
    versions: (await versionsOf(viewer, object, id)) ?? [],
    as: wanted ? await versionOf(viewer, object, id, version > 0 ? { version } : { day }) : undefined,
    wanted,
  };
}
