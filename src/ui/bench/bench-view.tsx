'use client';

import { useEffect, useState } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { Segments } from '../parts/segments';
import { useActions, useDerived } from '../workspace/context';
import './bench-commands';
import { BenchRegisters } from './bench-registers';
import { benchOf } from './bench-store';
import { BenchToolbar } from './bench-toolbar';
import { BoardTrace } from './board-trace';
import { FarEnds } from './far-ends';
import { Lanes } from './lanes';
import { PortPanel } from './port-panel';
import { ScriptLine } from './script-line';

const PARTS = [
  { value: 'far', label: 'far ends' },
  { value: 'port', label: 'port' },
  { value: 'registers', label: 'registers' },
] as const;

/** The plan, tried before there is a board: its operations step by step, its circuits to play with, its levels over time. */
export function BenchView() {
  const { derived } = useDerived();
  const { session } = useActions();
  const store = benchOf(session, derived);
  const [part, setPart] = useState<string>('far');
  const rows = useDefaultLayout({ id: 'mavrek:bench', storage: localStorage });
  useEffect(() => () => store.run(false), [store]);
  return (
    <div className="flex h-full flex-col">
      <BenchToolbar store={store} />
      <div className="min-h-0 flex-1">
        <Group orientation="vertical" {...rows}>
          <Panel id="far" defaultSize="52%" minSize={60}>
            <div className="flex h-full flex-col">
              <div className="flex items-center gap-3 px-3.5 pt-1">
                <Segments label="Shown" value={part} choices={PARTS} onChange={setPart} />
                <span className="text-[12px] text-soft max-lg:hidden">
                  {part === 'far'
                    ? 'Click what underlines or is drawn: it is played, and stands in the log below.'
                    : ''}
                </span>
              </div>
              <div className="pane-area min-h-0 flex-1">
                {part === 'far' ? (
                  <FarEnds store={store} />
                ) : part === 'port' ? (
                  <PortPanel store={store} />
                ) : (
                  <BenchRegisters store={store} />
                )}
              </div>
            </div>
          </Panel>
          <Separator className="separator-h" aria-label="Height of the lanes" />
          <Panel id="lanes" minSize={90}>
            <Lanes store={store} />
          </Panel>
        </Group>
      </div>
      <BoardTrace store={store} />
      <ScriptLine store={store} />
    </div>
  );
}
