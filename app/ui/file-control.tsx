import { Paperclip, X } from 'lucide-react';
import { useId, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { largestFile, sizeWords } from '../../core/files/index.ts';
import { useHydrated } from './choices';
import { useLatest } from './latest';
import { Progress } from './progress';
import type { Chosen } from './picker';

/** A file on its way: how much of it has gone. */
interface Sending {
  name: string;
  part: number;
}
type Answer = { file: { id: string; name: string; size: number } } | { sentence: string };

/** Sends one file, and says how far it is; what comes back is the file as it is kept, or the sentence that says why it is not. */
function send(file: File, onPart: (part: number) => void): Promise<Answer> {
  if (file.size > largestFile)
    return Promise.resolve({ sentence: `“${file.name}” has ${sizeWords(file.size)}; at most ${sizeWords(largestFile)} can be attached.` });
  return new Promise((done) => {
    const request = new XMLHttpRequest();
    request.open('POST', '/files');
    request.responseType = 'json';
    request.upload.onprogress = (e) => e.lengthComputable && onPart(e.loaded / e.total);
    const lost = () => done({ sentence: `“${file.name}” could not be sent. Try again.` });
    request.onerror = lost;
    // Where it is no answer of ours (signed out meanwhile, cut on the way), the file was not kept.
    request.onload = () => (typeof request.response === 'object' && request.response !== null ? done(request.response as Answer) : lost());
    const form = new FormData();
    form.append('file', file, file.name);
    request.send(form);
  });
}

/**
 * Files that are attached: chosen, or dropped here; each is sent at once, and can be opened and taken out again. Before scripts load it
 * is the browser's own chooser, and the file goes with the form.
 */
export function FileControl({
  name,
  label,
  ids,
  several,
  files,
  names,
  onChange,
}: {
  name: string;
  label: string;
  ids: { id: string; 'aria-describedby': string | undefined; 'aria-invalid': true | undefined };
  several: boolean;
  /** The ids of those that are there. */
  files: string[];
  names: Record<string, string>;
  onChange: (files: string[], chosen?: Chosen) => void;
}) {
  const hydrated = useHydrated();
  const chooser = useRef<HTMLInputElement>(null);
  const opener = useRef<HTMLButtonElement>(null);
  const [sending, setSending] = useState<Sending[]>([]);
  const [wrong, setWrong] = useState<string[]>([]);
  const told = useId();
  // What was sent comes to what is there then, in this field and in those around it, not to what was there when it was chosen.
  const now = useLatest({ files, onChange });
  const took = (file: Chosen) =>
    flushSync(() => now.current.onChange(several ? [...now.current.files, file.id] : [file.id], { id: file.id, name: file.name }));
  const take = async (chosen: readonly File[]) => {
    setWrong([]);
    for (const file of several ? chosen : chosen.slice(0, 1)) {
      const progress = (part: number) => setSending((all) => [...all.filter((s) => s.name !== file.name), { name: file.name, part }]);
      progress(0);
      const answer = await send(file, progress);
      setSending((all) => all.filter((s) => s.name !== file.name));
      if ('sentence' in answer) setWrong((all) => [...all, answer.sentence]);
      else took(answer.file);
    }
  };
  const act = several ? 'Attach files' : files.length > 0 ? 'Attach another in its place' : 'Attach a file';
  const kept = files.map((id) => (
    <li key={id} className="flex items-center gap-2 border-b py-1">
      <Paperclip size={14} aria-hidden className="shrink-0 text-faint" />
      <input type="hidden" name={name} value={id} />
      <a href={`/files/${id}`} className="min-w-0 truncate text-sea underline underline-offset-4">
        {names[id] ?? 'A file'}
      </a>
      {hydrated && (
        <button
          type="button"
          className="ml-auto flex size-6 shrink-0 items-center justify-center text-faint hover:text-coral"
          onClick={() => {
            onChange(files.filter((f) => f !== id));
            opener.current?.focus();
          }}
        >
          <X size={14} aria-hidden />
          <span className="sr-only">Take out {names[id] ?? 'this file'}</span>
        </button>
      )}
    </li>
  ));
  if (!hydrated)
    return (
      <div>
        {kept.length > 0 && <ul aria-label={`${label}: attached`}>{kept}</ul>}
        <input {...ids} type="file" name={name} multiple={several} className="file-input" />
      </div>
    );
  return (
    <div
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        void take([...e.dataTransfer.files]);
      }}
    >
      {kept.length > 0 && <ul aria-label={`${label}: attached`}>{kept}</ul>}
      <ul aria-live="polite" id={told}>
        {sending.map((s) => (
          <li key={s.name} className="py-1 text-sm text-faint">
            Sending {s.name} …
            <Progress label={`Sending ${s.name}`} part={s.part} />
          </li>
        ))}
        {wrong.map((sentence) => (
          <li key={sentence} className="py-1 text-sm text-coral">
            {sentence}
          </li>
        ))}
      </ul>
      <input
        ref={chooser}
        type="file"
        multiple={several}
        tabIndex={-1}
        aria-hidden
        className="sr-only"
        onChange={(e) => {
          const chosen = [...(e.target.files ?? [])];
          // The same file can be chosen again.
          e.target.value = '';
          void take(chosen);
        }}
      />
      <button
        {...ids}
        ref={opener}
        type="button"
        aria-label={`${label}: ${act}`}
        className="mt-1 inline-flex min-h-8 items-center gap-1.5 rounded border border-faint bg-sheet px-3 py-1 font-medium hover:border-sea hover:text-sea aria-invalid:border-coral"
        onClick={() => chooser.current?.click()}
      >
        <Paperclip size={14} aria-hidden /> {act}
      </button>
      <span className="ml-3 text-sm text-faint">
        up to {sizeWords(largestFile)}
        {several && ' each'}
        <span className="max-md:hidden">; {several ? 'they' : 'it'} can be dropped here, too</span>
      </span>
    </div>
  );
}
