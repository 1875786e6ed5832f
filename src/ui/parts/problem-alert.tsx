import type { Problem } from '@/core/base/problems';

interface Props {
  problems: readonly Problem[];
  /** The rest is counted. */
  most?: number;
  /** What it comes to, above the list. */
  title?: string;
  className?: string;
  onClose?: () => void;
}

/** What is wrong and where, one line each; nothing when nothing is. */
export function ProblemAlert({ problems, most = 8, title, className = '', onClose }: Props) {
  if (problems.length === 0) return null;
  return (
    <div role="alert" className={`flex gap-4 border border-ink bg-sheet px-3 py-1.5 ${className}`}>
      <div className="mr-auto max-h-40 min-w-0 overflow-auto text-err">
        {title !== undefined && <p>{title}</p>}
        {problems.slice(0, most).map((one) => (
          <p key={`${one.place} ${one.message}`} className="break-words">
            <span className="m">{one.place}</span> {one.message}
          </p>
        ))}
        {problems.length > most && <p>and {problems.length - most} more</p>}
      </div>
      {onClose && (
        <button type="button" className="link self-start" onClick={onClose}>
          Close
        </button>
      )}
    </div>
  );
}
