import { Component, useEffect, type ReactNode } from 'react';
import { isRouteErrorResponse, useRouteError } from 'react-router';
import { Button } from './button';
import { Problem, ProblemInside } from './problem';
import { useVisit } from './visit';

const unexpected = 'Something unexpected went wrong here. Nothing was changed. Try again, and tell an administrator if it stays so.';

/** A page, or a leaf of one, that could not be shown. */
export function Trouble() {
  return <Problem {...useTrouble()} />;
}
/** What could not be shown, in the place where it would stand: the rest of the page goes on. */
export function TroubleInside() {
  return <ProblemInside {...useTrouble()} />;
}

function useTrouble() {
  const error = useRouteError();
  const answer = isRouteErrorResponse(error) ? error : undefined;
  const visit = useVisit();
  useEffect(() => {
    // The server knows of what failed there; of what failed here it is told.
    if (visit && !answer && error instanceof Error && error.message !== 'Unexpected Server Error') tell(visit, error);
  }, [visit, answer, error]);
  return {
    title: answer?.status === 404 ? 'Not here' : answer?.status === 403 ? 'Not yours to open' : 'Something went wrong',
    sentence: typeof answer?.data === 'string' && answer.data ? answer.data : unexpected,
    quote: answer && answer.status < 500 ? undefined : (visit ?? ''),
  };
}

const tell = (visit: string, error: Error) =>
  void navigator.sendBeacon('/trouble', new URLSearchParams({ visit, words: error.message.slice(0, 300), where: location.pathname }));

interface Props {
  /** What it stands around, for the sentence: "These settings". */
  what: string;
  /** Shown anew when this changes. */
  of: string | undefined;
  children: ReactNode;
}

/** Keeps what fails to be drawn from taking the page, its draft and its undo with it. */
export class Contained extends Component<Props, { failed: string | undefined | true }> {
  override state = { failed: undefined };
  static getDerivedStateFromError = () => ({ failed: true });
  override componentDidCatch(error: Error) {
    const timing = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[];
    tell(timing[0]?.serverTiming.find((s) => s.name === 'visit')?.description ?? 'unknown', error);
  }
  override componentDidUpdate(before: Props) {
    if (this.state.failed && before.of !== this.props.of) this.setState({ failed: undefined });
  }
  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <div role="alert" className="p-5">
        <p className="mb-3">{this.props.what} cannot be shown. The draft and its undo are as they were.</p>
        <Button onClick={() => this.setState({ failed: undefined })}>Try again</Button>
      </div>
    );
  }
}
