import { isList, isReference, Link, type RichText, type TextPiece } from '../../core/values/index.ts';

/** A formatted text without references, as it is read. */
export function RichWords({ text }: { text: RichText }) {
  return (
    <div className="rich">
      {text.map((b, i) => {
        if (!isList(b)) return <p key={i}>{b.map(piece)}</p>;
        const Tag = b.list === 'numbers' ? 'ol' : 'ul';
        return (
          <Tag key={i}>
            {b.items.map((item, n) => (
              <li key={n}>{item.map(piece)}</li>
            ))}
          </Tag>
        );
      })}
    </div>
  );
}

function piece(p: TextPiece, i: number) {
  const words = isReference(p) ? '' : p.text;
  let said = <>{words}</>;
  if (p.italic) said = <em>{said}</em>;
  if (p.bold) said = <strong>{said}</strong>;
  if (p.link && Link.safeParse(p.link).success) {
    said = (
      <a href={p.link} className="text-sea underline" rel="noreferrer">
        {said}
      </a>
    );
  }
  return <span key={i}>{said}</span>;
}

/** What a message said: formatted where it was. */
export const MessageWords = ({ content, text }: { content: RichText | null; text: string }) =>
  content ? <RichWords text={content} /> : <p className="whitespace-pre-wrap">{text}</p>;
