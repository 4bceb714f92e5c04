import { ButtonLink } from './button';

interface Words {
  title: string;
  sentence: string;
  /** It was not expected: the number under which it stands in the log; empty while that is not known. */
  quote?: string | undefined;
}

/** A page that could not be shown: what is the matter and where to go. */
export function Problem(words: Words) {
  return (
    <main id="main" className="mx-auto w-full max-w-xl px-4 py-16">
      <ProblemInside {...words} />
    </main>
  );
}

/** The same in the place of what could not be shown, inside a page that goes on. */
export function ProblemInside({ title, sentence, quote }: Words) {
  return (
    <>
      <h1 className="font-serif text-2xl">{title}</h1>
      <p className="mt-3 max-w-xl">{sentence}</p>
      {quote !== undefined && <Quote number={quote} />}
      <p className="mt-6">
        <ButtonLink to="/counter">Go to the Counter</ButtonLink>
      </p>
    </>
  );
}

/** The number under which what failed stands in the log. */
export const Quote = ({ number }: { number: string }) => (
  <p className="mt-3">
    Quote this number: {/* The server knows it at once, the browser a moment later. */}
    <span className="numbers font-medium" suppressHydrationWarning>
      {number}
    </span>
  </p>
);

/** What a command refused, above the form it came from. */
export function Refused({ sentence }: { sentence: string | undefined }) {
  return <div role="alert">{sentence && <p className="mb-4 border-l-3 border-coral bg-coral-wash px-3 py-2">{sentence}</p>}</div>;
}
