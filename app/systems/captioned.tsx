import type { ComponentProps } from 'react';
import { Line } from '~/ui/line';

/** A line with a short caption above it; whoever hears the page hears its whole name instead. */
export const Captioned = ({ caption, ...line }: ComponentProps<typeof Line> & { caption: string }) => (
  <div className="min-w-0">
    <span aria-hidden className="text-faint">
      {caption}
    </span>
    <Line {...line} />
  </div>
);
