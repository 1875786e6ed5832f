import type { DraftReading, PartDraft } from '@/core/import/compose/draft';

export const STEPS = [
  { id: 'pinout', title: 'Pinout' },
  { id: 'functions', title: 'Functions' },
  { id: 'part', title: 'Part' },
  { id: 'registers', title: 'Registers' },
] as const;
export type StepId = (typeof STEPS)[number]['id'];

type StepState = 'empty' | 'good' | 'warned' | 'asked' | 'bad';

function stepState(step: StepId, draft: PartDraft, reading: DraftReading): StepState {
  switch (step) {
    case 'pinout':
    case 'functions': {
      if (!draft[step]) return 'empty';
      const { mapping, problems } = step === 'pinout' ? reading.pinout : reading.functionTable;
      if (mapping.length > 0 || problems.some((one) => one.severity === 'error')) return 'bad';
      if (problems.some((one) => one.severity === 'question')) return 'asked';
      return problems.length > 0 ? 'warned' : 'good';
    }
    case 'part':
      return draft.device.name.trim() === '' ? 'empty' : idProblem(draft.device.id) ? 'bad' : 'good';
    case 'registers':
      return draft.rest.recipe ? 'good' : 'empty';
  }
}

const SIGNS: Record<StepState, [string, string, string]> = {
  empty: ['○', 'not yet', 'text-soft'],
  good: ['●', 'good', 'text-soft'],
  warned: ['△', 'has warnings', 'text-warn'],
  asked: ['?', 'has questions', 'text-pick'],
  bad: ['▲', 'has errors', 'text-err'],
};

function StepSign({ state }: { state: StepState }) {
  const [sign, word, colour] = SIGNS[state];
  return (
    <span role="img" aria-label={word} title={word} className={colour}>
      {sign}
    </span>
  );
}

const idProblem = (id: string): string | undefined =>
  /^[A-Za-z0-9][A-Za-z0-9._+-]{0,79}$/.test(id) ? undefined : 'the id may hold letters, digits and - . _ +';

/** Why the part cannot be stored yet; undefined when it can. */
export function whatIsMissing(draft: PartDraft, reading: DraftReading): string | undefined {
  if (!draft.pinout) return 'first the pinout';
  if (reading.errors > 0) return `${reading.errors} ${reading.errors === 1 ? 'error' : 'errors'} left`;
  if (reading.questions > 0)
    return `${reading.questions} ${reading.questions === 1 ? 'question' : 'questions'} left`;
  if (reading.pads.length === 0) return 'the pinout has no pads yet';
  for (const { id, removes = [] } of reading.file.packages)
    if (removes.some((one) => !one.signals && !one.pads))
      return `a note of package ${id} says neither signals nor pads`;
  if (draft.device.name.trim() === '') return 'the part needs a name';
  return idProblem(draft.device.id);
}

interface StepsProps {
  step: StepId;
  draft: PartDraft;
  reading: DraftReading;
  onStep: (step: StepId) => void;
}

/** The four steps, and how far each is. */
export function Steps({ step, draft, reading, onStep }: StepsProps) {
  return (
    <nav aria-label="Steps" className="flex gap-0.5">
      {STEPS.map((one) => (
        <button
          key={one.id}
          type="button"
          aria-current={step === one.id ? 'step' : undefined}
          className={`border-b-2 px-2 py-1 ${step === one.id ? 'border-pick font-medium' : 'border-transparent text-soft hover:text-ink'}`}
          onClick={() => onStep(one.id)}
        >
          {one.title} <StepSign state={stepState(one.id, draft, reading)} />
        </button>
      ))}
    </nav>
  );
}
