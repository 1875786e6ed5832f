import { Copy, Download, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { type PlanSummary, tagOf } from '@/core/plan/summary';
import { May } from '../people/me';
import { FindingCounts } from './finding-counts';
import type { Message } from './plan-message';
import { RenameField } from './rename-field';

interface Props {
  plan: PlanSummary;
  /** Its part and package, in words. */
  part: string;
  /** Another plan has its name and revision. */
  oneOfSeveral: boolean;
  onChanged: () => void;
  onProblem: (message: Message) => void;
  onDuplicate: () => void;
  onDelete: () => void;
}

/** A plan in the list, and what can be done with it there. */
export function PlanRow({ plan, part, oneOfSeveral, onChanged, onProblem, onDuplicate, onDelete }: Props) {
  return (
    <tr className="border-b border-rule hover:bg-sheet">
      <td className="py-1.5 pr-4">
        <RenameField planId={plan.id} name={plan.name} onDone={onChanged} onProblem={onProblem}>
          <Link
            prefetch={false}
            href={`/plans/${plan.id}`}
            data-start="plans"
            className="text-[15px] font-medium hover:underline"
          >
            {plan.name}
          </Link>
          <span className="ml-2 text-soft">{plan.revision && `rev ${plan.revision}`}</span>
          {oneOfSeveral && (
            <span className="ml-2 text-soft" title="Another plan has this name and revision">
              <span className="m">{tagOf(plan.id)}</span> · one of several of this name
            </span>
          )}
        </RenameField>
      </td>
      <td className="pr-4 text-soft max-sm:hidden">{part}</td>
      <td className="m text-right tabular-nums">
        {plan.placed}/{plan.nets}
      </td>
      <td className="pl-6">
        <FindingCounts errors={plan.errors} warnings={plan.warnings} />
      </td>
      <td className="pl-4 text-soft max-md:hidden" suppressHydrationWarning>
        {new Date(plan.updatedAt).toLocaleString('en-GB', {
          dateStyle: 'medium',
          timeStyle: 'short',
        })}
      </td>
      <td className="whitespace-nowrap text-right">
        <a
          className="inline-block p-1.5 align-middle text-soft hover:text-ink"
          href={`/api/plans/${plan.id}/file`}
          download
          aria-label={`Export ${plan.name} as a file`}
          title="Export as a file"
        >
          <Download size={15} />
        </a>
        <May right="edit">
          <IconButton title="Duplicate" label={`Duplicate ${plan.name}`} onClick={onDuplicate}>
            <Copy size={15} />
          </IconButton>
          <IconButton title="Delete" label={`Delete ${plan.name}`} onClick={onDelete}>
            <Trash2 size={15} />
          </IconButton>
        </May>
      </td>
    </tr>
  );
}

function IconButton(props: { title: string; label: string; onClick: () => void; children: React.ReactNode }) {
  return (
    <button
      type="button"
      className="p-1.5 align-middle text-soft hover:text-ink"
      title={props.title}
      aria-label={props.label}
      onClick={props.onClick}
    >
      {props.children}
    </button>
  );
}
