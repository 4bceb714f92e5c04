import { Component, useEffect, type ReactNode } from 'react';
import { isRouteErrorResponse, useRouteError } from 'react-router';
import { Button } from './button';
import { Page } from './frame';
import { Problem, ProblemInside, Quote } from './problem';
import { useVisit, visitInBrowser } from './visit';

const unexpected = 'Something unexpected went wrong here. Nothing was changed. Try again, and tell an administrator if it stays so.';

/** A page, or a leaf of one, that could not be shown. */
export function Trouble() {
  return <Problem {...useTrouble()} />;
}
/** What could not be shown, in the place where it would stand: the rest of the page goes on. */
export function TroubleInside() {
  return <ProblemInside {...useTrouble()} />;
}

/** The same where there is nothing around it but the place. */
export function TroubleOnPage() {
  return (
    <Page>
      <ProblemInside {...useTrouble()} />
    </Page>
  );
}

/** The router knows of no such address; its own words are not for those who read. */
const nowhere = (answer: { status: number; data: unknown } | undefined): boolean =>
  answer?.status === 404 && typeof answer.data === 'string' && answer.data.includes('No route matches URL');

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
    sentence: nowhere(answer)
      ? 'There is no page at this address. The places above lead on.'
      : typeof answer?.data === 'string' && answer.data
        ? answer.data
        : unexpected,
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

function VisitWords() {
  const visit = useVisit();
  return visit ? <Quote number={visit} /> : null;
}

/** Keeps what fails to be drawn from taking the page, its draft and its undo with it. */
export class Contained extends Component<Props, { failed: boolean }> {
  override state = { failed: false };
  static getDerivedStateFromError = () => ({ failed: true });
  override componentDidCatch(error: Error) {
    tell(visitInBrowser() ?? 'unknown', error);
  }
  override componentDidUpdate(before: Props) {
    if (this.state.failed && before.of !== this.props.of) this.setState({ failed: false });
  }
  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <div role="alert" className="p-5">
        <p>{this.props.what} cannot be shown. The draft and its undo are as they were.</p>
        <VisitWords />
        <p className="mt-4">
          <Button onClick={() => this.setState({ failed: false })}>Try again</Button>
        </p>
      </div>
    );
  }
}
