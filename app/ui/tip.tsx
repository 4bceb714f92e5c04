import { Tooltip } from 'radix-ui';
import type { RefObject } from 'react';

/** A tip beside the place in the window that it is about. */
export default function Tip({
  words,
  of: { left, top, width, height },
  content,
}: {
  words: string;
  of: DOMRect;
  content: RefObject<HTMLDivElement | null>;
}) {
  return (
    <Tooltip.Provider>
      <Tooltip.Root open>
        <Tooltip.Trigger asChild>
          <span aria-hidden className="pointer-events-none fixed" style={{ left, top, width, height }} />
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            ref={content}
            sideOffset={4}
            collisionPadding={8}
            className="z-50 max-w-80 rounded border bg-sheet px-2 py-1 text-sm break-words whitespace-pre-line text-ink shadow-float"
          >
            {words}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}
