export const parkAddress = () => process.env['MACHINES_URL']!;

/** Asks the machine park itself, as somebody who keeps it. */
export const atPark = async <T>(path: string, body?: object): Promise<T> =>
  (await (
    await fetch(new URL(path, parkAddress()), {
      method: body ? 'POST' : 'GET',
      headers: { authorization: `Bearer ${process.env['MACHINES_TOKEN']}`, 'content-type': 'application/json' },
      ...(body && { body: JSON.stringify(body) }),
    })
  ).json()) as T;

/** What each machine that runs is signed in to with, by its address; nothing where the park does not say at present. */
export async function signIns(): Promise<Map<string, string>> {
  const { machines } = await atPark<{ machines?: { address?: string; signIn?: string }[] }>('/park/machines');
  return new Map((machines ?? []).flatMap((m) => (m.address && m.signIn ? [[m.address, m.signIn]] : [])));
}
