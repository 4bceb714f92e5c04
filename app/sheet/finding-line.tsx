import { Link } from 'react-router';
import type { Finding } from '../../core/plans/index.ts';
import { Button } from '~/ui/button';
import { StateMark } from '~/ui/state-mark';

/** A finding: what is the matter, what mends it, and the way there. */
export function FindingLine({ finding, to, onMend }: { finding: Finding; to?: string; onMend?: (finding: Finding) => void }) {
  return (
    <li className="flex gap-2">
      <span className="pt-0.5">
        <StateMark kind={finding.severity === 'stops' ? 'failed' : 'lapsed'} />
      </span>
      <span>
        <span className="sr-only">{finding.severity === 'stops' ? 'Stops publishing: ' : 'Warning: '}</span>
        {to ? (
          <Link to={to} className="underline decoration-rule underline-offset-4 hover:text-sea">
            {finding.sentence}
          </Link>
        ) : (
          finding.sentence
        )}
        <span className="block text-sm text-faint">{finding.mend}</span>
        {finding.fix && onMend && (
          <Button className="mt-1 min-h-6 px-2 py-0 text-sm" onClick={() => onMend(finding)}>
            {finding.fix.words}
          </Button>
        )}
      </span>
    </li>
  );
}
