import type { Problem } from '@/core/base/problems';

/** What became of something that was done with a plan. */
export interface Message {
  text: string;
  problems: Problem[];
  /** A plan just deleted, which one click brings back. */
  restore?: string;
}

interface Props {
  message: Message;
  onRestore: (id: string) => void;
  onClose: () => void;
}

const MOST_SHOWN = 8;

export function PlanMessage({ message, onRestore, onClose }: Props) {
  const { text, problems, restore } = message;
  return (
    <div role="alert" className="mb-4 flex items-start gap-3 border border-ink bg-sheet px-4 py-2">
      <div className="mr-auto min-w-0">
        <p className={problems.length > 0 ? 'text-err' : ''}>{text}</p>
        {problems.slice(0, MOST_SHOWN).map((problem) => (
          <p key={`${problem.place} ${problem.message}`} className="break-words">
            <span className="m text-soft">{problem.place}</span> {problem.message}
          </p>
        ))}
        {problems.length > MOST_SHOWN && <p className="text-soft">and {problems.length - MOST_SHOWN} more</p>}
      </div>
      {restore !== undefined && (
        <button type="button" className="link" onClick={() => onRestore(restore)}>
          Bring it back
        </button>
      )}
      <button type="button" className="link" onClick={onClose}>
        Close
      </button>
    </div>
  );
}
