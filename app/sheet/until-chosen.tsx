/** Said while a kind is chosen and what it needs is not. */
export function UntilChosen({ stands }: { stands: boolean }) {
  return <p className="text-sm text-faint">{stands ? 'Until that is chosen, it stays as it was.' : 'Not chosen yet.'}</p>;
}
