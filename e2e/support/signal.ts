/** Something to wait for, and what brings it. */
export function signal(): { given: Promise<void>; give: () => void } {
  let give = () => {};
  const given = new Promise<void>((done) => {
    give = done;
  });
  return { given, give };
}
