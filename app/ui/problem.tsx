import { ButtonLink } from './button';

/** A page that could not be shown: what is the matter and where to go. */
export function Problem({ title, sentence }: { title: string; sentence: string }) {
  return (
    <main id="main" className="mx-auto max-w-xl px-4 py-16">
      <h1 className="font-serif text-2xl">{title}</h1>
      <p className="mt-3 mb-6">{sentence}</p>
      <ButtonLink to="/counter">Go to the Counter</ButtonLink>
    </main>
  );
}

/** What a command refused, above the form it came from. */
export function Refused({ sentence }: { sentence: string | undefined }) {
  return <div role="alert">{sentence && <p className="mb-4 border-l-3 border-coral bg-coral-wash px-3 py-2">{sentence}</p>}</div>;
}
