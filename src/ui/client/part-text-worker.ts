import type { Problem } from '@/core/base/problems';
import type { Result } from '@/core/base/result';
import type { PartComparison } from '@/core/compare/parts/compare-parts';
import type { StateBefore, WriteEffect } from '@/core/derive/machine/write-effect';
import type { RecipeFile } from '@/core/description/recipe-file';
import type { DeviceDescription } from '@/core/description/types';
import type { Meaning } from '@/core/part-meaning/meaning';
import type { TextAnswer, TextTask } from '@/core/part-meaning/text-task';

/** The part of an open text, in a worker. What is asked after it was closed is answered by nothing. */
export interface PartTextReader {
  check(name: string, text: string, file: RecipeFile): Promise<Problem[] | undefined>;
  compare(again: RecipeFile | DeviceDescription): Promise<Result<PartComparison> | undefined>;
  meaning(key: string): Promise<Meaning | null>;
  write(register: string, value: number, state: StateBefore): Promise<WriteEffect | null>;
  close(): void;
}

type Asked = TextTask extends infer Task ? (Task extends unknown ? Omit<Task, 'id'> : never) : never;

export function startPartText(description: DeviceDescription): PartTextReader {
  const worker = new Worker(new URL('../../workers/part-text.worker.ts', import.meta.url), {
    type: 'module',
  });
  const waiting = new Map<number, (answer: TextAnswer | undefined) => void>();
  let count = 0;
  const ask = (task: Asked): Promise<TextAnswer | undefined> =>
    new Promise((done) => {
      count++;
      waiting.set(count, done);
      worker.postMessage({ ...task, id: count });
    });
  const close = (): void => {
    worker.terminate();
    for (const done of waiting.values()) done(undefined);
    waiting.clear();
  };
  worker.onmessage = ({ data }: MessageEvent<TextAnswer>) => {
    waiting.get(data.id)?.(data);
    waiting.delete(data.id);
  };
  worker.onerror = (event) => {
    event.preventDefault();
    close();
  };
  void ask({ kind: 'open', description });
  return {
    check: async (name, text, file) => {
      const answer = await ask({ kind: 'check', name, text, file });
      return answer?.kind === 'checked' ? answer.problems : undefined;
    },
    compare: async (again) => {
      const answer = await ask({ kind: 'compare', again });
      return answer?.kind === 'compared' ? answer.comparison : undefined;
    },
    meaning: async (key) => {
      const answer = await ask({ kind: 'meaning', key });
      return answer?.kind === 'meaning' ? answer.meaning : null;
    },
    write: async (register, value, state) => {
      const answer = await ask({ kind: 'write', register, value, state });
      return answer?.kind === 'effect' ? answer.effect : null;
    },
    close,
  };
}
