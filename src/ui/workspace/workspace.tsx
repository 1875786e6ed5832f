'use client';

import { memo, type ReactNode, useEffect, useState } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import type { Device } from '@/core/device/device';
import type { PlanSession } from '../client/plan-session';
import { useKeys } from '../commands/use-keys';
import { Findings, FindingsLine } from '../drawer/findings';
import { Header } from '../header/header';
import { Inspector } from '../inspector/inspector';
import { NetList } from '../nets/net-list';
import { FootprintPane } from '../package/footprint-pane';
import { PackageView } from '../package/unfolded';
import { PartChanged } from '../part-change/part-changed';
import { later } from '../parts/later';
import { useLeaveGuard } from '../parts/use-leave-guard';
import { PlacerBar } from '../placer/placer-bar';
import { useActions, useDerived, useSession, useView, WorkspaceProvider } from './context';
import { MetEdits } from './met-edits';
import { usePanes } from './panes';
import type { ViewId } from './selection';

// The plan opens with its package; every other view is loaded when it is shown, or before that when nothing else is to do.
const PortsView = later('The ports view', () => import('../ports/ports-view').then((one) => one.PortsView));
const FunctionsView = later('The functions view', () =>
  import('../functions/functions-view').then((one) => one.FunctionsView),
);
const RegistersView = later('The registers view', () =>
  import('../registers/registers-view').then((one) => one.RegistersView),
);
const PowerView = later('The power view', () => import('../power/power-view').then((one) => one.PowerView));
const BoardView = later('The board view', () => import('../board/board-view').then((one) => one.BoardView));
const BenchView = later('The bench', () => import('../bench/bench-view').then((one) => one.BenchView));
const CodeView = later('The code view', () => import('../code/code-view').then((one) => one.CodeView));
const CodeChanges = later('The changes of the code', () =>
  import('../drawer/code-changes').then((one) => one.CodeChanges),
);
const MomentBar = later('The moment', () => import('../history/moment-bar').then((one) => one.MomentBar));
const GuideBar = later('The guide', () => import('../guide/guide-bar').then((one) => one.GuideBar));
const KeysDialog = later('The list of keys', () =>
  import('../help/keys-dialog').then((one) => one.KeysDialog),
);
const ChangePartDialog = later('The change of part', () =>
  import('../part-change/change-part-dialog').then((one) => one.ChangePartDialog),
);
const LATER = [
  PortsView,
  FunctionsView,
  RegistersView,
  PowerView,
  BoardView,
  BenchView,
  CodeView,
  KeysDialog,
  ChangePartDialog,
];

const VIEW_COMPONENTS: Record<ViewId, () => ReactNode> = {
  package: () => <PackageView />,
  ports: () => <PortsView />,
  functions: () => <FunctionsView />,
  registers: () => <RegistersView />,
  power: () => <PowerView />,
  board: () => <BoardView />,
  bench: () => <BenchView />,
  code: () => <CodeView />,
};

/** After opening, before the other views are fetched. */
const IDLE_MS = 2500;

interface Props {
  id: string;
  session: PlanSession;
  device: Device;
  today: string;
  /** It is looked at as it was once: what that moment is called. */
  moment?: string | undefined;
}

/** One plan fills the window. */
export function Workspace({ id, session, device, today, moment }: Props) {
  const at = moment === undefined ? undefined : session.getState().seq;
  return (
    <WorkspaceProvider planId={id} at={at} session={session} device={device} today={today}>
      <Frame moment={moment} />
    </WorkspaceProvider>
  );
}

/** Whether a guide has been begun on this plan, in this browser. */
const hasGuide = (planId: string): boolean => localStorage.getItem(`mavrek:guide:${planId}`) !== null;

/** What saving has to say, and the browser's question when one leaves before it is done. */
function Met() {
  return useSession().met.length > 0 ? <MetEdits /> : null;
}

function SessionNotice() {
  const { notice, pending } = useSession();
  const { session } = useActions();
  useLeaveGuard(pending.length > 0);
  if (notice === null) return null;
  return (
    <div role="alert" className="flex gap-4 border-b border-ink bg-pickbg px-4 py-1.5">
      <span className="mr-auto">{notice}</span>
      <button type="button" className="link" onClick={() => session.dismissNotice()}>
        Close
      </button>
    </div>
  );
}

/** Parts that take nothing from the frame: it may be drawn again without them. */
const Nets = memo(NetList);
const Inspected = memo(Inspector);
const FindingList = memo(Findings);
const Footprint = memo(FootprintPane);
const View = memo(function View({ view }: { view: ViewId }) {
  return VIEW_COMPONENTS[view]();
});

function Frame({ moment }: { moment: string | undefined }) {
  const { view } = useView();
  const { derived } = useDerived();
  const { current, planId } = useActions();
  const [help, setHelp] = useState(false);
  const [changing, setChanging] = useState(false);
  // Whoever has begun a guided plan finds the guide again; it is fetched only then.
  const [guide, setGuide] = useState(() => (hasGuide(planId) ? { asked: 0 } : null));
  useKeys(current, () => setHelp(true));
  const columns = useDefaultLayout({ id: 'mavrek:columns', storage: localStorage });
  const rows = useDefaultLayout({ id: 'mavrek:rows', storage: localStorage });
  const bottom = useDefaultLayout({ id: 'mavrek:drawer', storage: localStorage });
  const panes = usePanes(derived.findings.length === 0 && view !== 'package');

  useEffect(() => {
    const idle = window.setTimeout(() => {
      for (const one of LATER) one.preload();
    }, IDLE_MS);
    return () => window.clearTimeout(idle);
  }, []);

  return (
    <div className="flex h-dvh flex-col overflow-hidden">
      <Header
        panes={panes}
        onHelp={() => setHelp(true)}
        onChangePart={() => setChanging(true)}
        onGuide={() => setGuide((old) => ({ asked: (old?.asked ?? 0) + 1 }))}
      />
      {moment !== undefined && <MomentBar moment={moment} />}
      {guide && <GuideBar asked={guide.asked} />}
      <SessionNotice />
      <Met />
      <PartChanged />
      <PlacerBar />
      <main className="min-h-0 flex-1">
        <Group orientation="vertical" {...rows}>
          <Panel id="top" minSize={160}>
            <Group orientation="horizontal" {...columns}>
              <Panel
                id="nets"
                panelRef={panes.refs.nets}
                onResize={panes.onResize}
                defaultSize={236}
                minSize={140}
                maxSize={460}
                collapsible
                collapsedSize={0}
                groupResizeBehavior="preserve-pixel-size"
              >
                {/* Folded, it is out of reach for keys and readers too; what was typed in it stays. */}
                <section aria-label="Nets" className={panes.folded.nets ? 'hidden' : 'flex h-full flex-col'}>
                  <div className="min-h-0 flex-1">
                    <Nets />
                  </div>
                  <Footprint />
                </section>
              </Panel>
              <Separator className="separator-v" aria-label="Width of the nets" />
              <Panel id="view" minSize={260}>
                <View view={view} />
              </Panel>
              <Separator className="separator-v" aria-label="Width of the inspector" />
              <Panel
                id="inspector"
                panelRef={panes.refs.inspector}
                onResize={panes.onResize}
                defaultSize={286}
                minSize={180}
                maxSize={560}
                collapsible
                collapsedSize={0}
                groupResizeBehavior="preserve-pixel-size"
              >
                <div className={panes.folded.inspector ? 'hidden' : 'h-full'}>
                  <Inspected />
                </div>
              </Panel>
            </Group>
          </Panel>
          <Separator className="separator-h" aria-label="Height of the findings" />
          <Panel
            id="drawer"
            panelRef={panes.refs.findings}
            onResize={panes.onResize}
            defaultSize={128}
            minSize={60}
            maxSize="70%"
            collapsible
            collapsedSize={28}
            groupResizeBehavior="preserve-pixel-size"
          >
            <div className="h-full bg-sheet">
              {panes.folded.findings ? (
                <FindingsLine onOpen={() => panes.toggle('findings')} />
              ) : view !== 'code' ? (
                <Group orientation="horizontal" {...bottom}>
                  <Panel id="findings" minSize={260}>
                    <FindingList />
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
                <FindingList />
              )}
            </div>
          </Panel>
        </Group>
      </main>
      {help && <KeysDialog open onOpenChange={setHelp} />}
      {changing && <ChangePartDialog open onOpenChange={setChanging} />}
    </div>
  );
}
