'use client';

import dynamic from 'next/dynamic';
import { type ReactNode, useEffect, useState } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import type { Device } from '@/core/recipe/device';
import type { PlanSession } from '../client/plan-session';
import { useKeys } from '../commands/use-keys';
import { Findings } from '../drawer/findings';
import { FunctionsView } from '../functions/functions-view';
import { Header } from '../header/header';
import { KeysDialog } from '../help/keys-dialog';
import { Inspector } from '../inspector/inspector';
import { NetList } from '../nets/net-list';
import { FootprintPane } from '../package/footprint-pane';
import { PackageView } from '../package/unfolded';
import { PartChanged } from '../part-change/part-changed';
import { PlacerBar } from '../placer/placer-bar';
import { PortsView } from '../ports/ports-view';
import { useWorkspace, WorkspaceProvider } from './context';
import type { ViewId } from './selection';

// Highlighting and comparing are only loaded when code is shown.
const CodeView = dynamic(() => import('../code/code-view').then((module) => module.CodeView), { ssr: false });
const PowerView = dynamic(() => import('../power/power-view').then((module) => module.PowerView), {
  ssr: false,
});
const BoardView = dynamic(() => import('../board/board-view').then((module) => module.BoardView), {
  ssr: false,
});
const ChangePartDialog = dynamic(
  () => import('../part-change/change-part-dialog').then((module) => module.ChangePartDialog),
  { ssr: false },
);
const CodeChanges = dynamic(() => import('../drawer/code-changes').then((module) => module.CodeChanges), {
  ssr: false,
});

const VIEW_COMPONENTS: Record<ViewId, () => ReactNode> = {
  package: () => <PackageView />,
  ports: () => <PortsView />,
  functions: () => <FunctionsView />,
  power: () => <PowerView />,
  board: () => <BoardView />,
  code: () => <CodeView />,
};

interface Props {
  id: string;
  session: PlanSession;
  device: Device;
  today: string;
}

/** One plan fills the window. */
export function Workspace({ id, session, device, today }: Props) {
  return (
    <WorkspaceProvider planId={id} session={session} device={device} today={today}>
      <Frame />
    </WorkspaceProvider>
  );
}

function Frame() {
  const workspace = useWorkspace();
  const { view, state, session } = workspace;
  const [help, setHelp] = useState(false);
  const [changing, setChanging] = useState(false);
  useKeys(workspace, () => setHelp(true));
  const columns = useDefaultLayout({ id: 'mavrek:columns', storage: localStorage });
  const rows = useDefaultLayout({ id: 'mavrek:rows', storage: localStorage });
  const bottom = useDefaultLayout({ id: 'mavrek:drawer', storage: localStorage });
  const unsaved = state.pending.length > 0;

  useEffect(() => {
    if (!unsaved) return;
    const warn = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [unsaved]);

  return (
    <div className="flex h-dvh flex-col overflow-hidden">
      <Header onHelp={() => setHelp(true)} onChangePart={() => setChanging(true)} />
      {state.notice !== null && (
        <div role="alert" className="flex gap-4 border-b border-ink bg-pickbg px-4 py-1.5">
          <span className="mr-auto">{state.notice}</span>
          <button type="button" className="link" onClick={() => session.dismissNotice()}>
            Close
          </button>
        </div>
      )}
      <PartChanged />
      <PlacerBar />
      <main className="min-h-0 flex-1">
        <Group orientation="vertical" {...rows}>
          <Panel id="top" minSize={160}>
            <Group orientation="horizontal" {...columns}>
              <Panel
                id="nets"
                defaultSize={236}
                minSize={140}
                maxSize={460}
                collapsible
                collapsedSize={0}
                groupResizeBehavior="preserve-pixel-size"
              >
                <section aria-label="Nets" className="flex h-full flex-col">
                  <div className="min-h-0 flex-1">
                    <NetList />
                  </div>
                  <FootprintPane />
                </section>
              </Panel>
              <Separator className="separator-v" aria-label="Width of the nets" />
              <Panel id="view" minSize={260}>
                {VIEW_COMPONENTS[view]()}
              </Panel>
              <Separator className="separator-v" aria-label="Width of the inspector" />
              <Panel
                id="inspector"
                defaultSize={286}
                minSize={180}
                maxSize={560}
                collapsible
                collapsedSize={0}
                groupResizeBehavior="preserve-pixel-size"
              >
                <Inspector />
              </Panel>
            </Group>
          </Panel>
          <Separator className="separator-h" aria-label="Height of the findings" />
          <Panel
            id="drawer"
            defaultSize={128}
            minSize={60}
            maxSize="70%"
            collapsible
            collapsedSize={0}
            groupResizeBehavior="preserve-pixel-size"
          >
            <div className="h-full bg-sheet">
              {view !== 'code' ? (
                <Group orientation="horizontal" {...bottom}>
                  <Panel id="findings" minSize={260}>
                    <Findings />
                  </Panel>
                  <Separator className="separator-v" aria-label="Width of the code" />
                  <Panel
                    id="changes"
                    defaultSize={430}
                    minSize={160}
                    collapsible
                    collapsedSize={0}
                    groupResizeBehavior="preserve-pixel-size"
                  >
                    <CodeChanges />
                  </Panel>
                </Group>
              ) : (
                <Findings />
              )}
            </div>
          </Panel>
        </Group>
      </main>
      <KeysDialog open={help} onOpenChange={setHelp} />
      {changing && <ChangePartDialog open onOpenChange={setChanging} />}
    </div>
  );
}
