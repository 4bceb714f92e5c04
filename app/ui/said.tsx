/** A value in words; files lead to what is in them. */
export function Said({ words, files }: { words: string; files?: readonly { id: string; name: string }[] | undefined }) {
  if (!files) return words;
  return files.map((f) => (
    <a key={f.id} href={`/files/${f.id}`} className="mr-3 inline-block max-w-full truncate text-sea underline underline-offset-4">
      {f.name}
    </a>
  ));
}
