import type { Result } from '@/core/base/result';
import { type Derived, derive } from '@/core/derive/derive';
import type { Device } from '@/core/device/device';
import { applyEdit, type Edit } from '@/core/plan/edits/edits';
import { placeNet, renameNet, setSetting } from '@/core/plan/edits/make-edits';
import type { Net, Plan } from '@/core/plan/model/types';

type Must = <T>(result: Result<T>) => T;

/**
 * Derivation after one edit, edit after edit, as in the page: a net is moved to another pad, a pull is turned on or off, a net is
 * renamed, in turns. Each call is one edit and what follows from it; making the edit is not counted in the page either, where
 * it is applied to the plan first.
 */
export function editAfterEdit(must: Must, device: Device, start: Plan): () => void {
  let now: Derived = must(derive(device, start));
  const free = device.description.pads.filter((pad) => pad.kind === 'io' && !pad.boot).map((pad) => pad.id);
  let turn = 0;
  const editOf = (net: Net): Edit => {
    switch (turn % 3) {
      case 0:
        return placeNet(net, { pad: free[(turn * 13) % free.length] ?? '', locked: false });
      case 1:
        return setSetting(net, 'pull', net.settings.pull === 'up' ? null : 'up');
      default:
        return renameNet(net, net.name.endsWith('_') ? net.name.slice(0, -1) : `${net.name}_`);
    }
  };
  return () => {
    turn++;
    const { nets } = now.plan;
    const net = nets[(turn * 7) % nets.length];
    if (!net) return;
    now = must(derive(device, must(applyEdit(now.plan, editOf(net))), now));
    // Now and then from the start again, so that what is measured stays the plan that was meant.
    if (turn % 60 === 0) now = must(derive(device, start));
  };
}
