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

interface There {
  id: string;
  state: string;
  address?: string;
  signIn?: string;
  owner?: string;
  until?: string;
}
/** The machines that the park has, page after page; none where it does not say at present. */
export async function machinesThere(): Promise<There[]> {
  const all: There[] = [];
  for (let path: string | undefined = '/machines'; path !== undefined;) {
    const page: { machines?: There[]; next?: string } = await atPark(`/park${path}`);
    all.push(...(page.machines ?? []));
    path = page.next;
  }
  return all;
}

/** What each machine that runs is signed in to with, by its address; nothing where the park does not say at present. */
export async function signIns(): Promise<Map<string, string>> {
  return new Map((await machinesThere()).flatMap((m) => (m.address && m.signIn ? [[m.address, m.signIn]] : [])));
}
