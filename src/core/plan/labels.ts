import type { PadId } from '../description/types';
import type { Edit } from './edits/edits';
import { setEntry, setFar } from './edits/make-edits';
import { entryOf, type Net, type Plan } from './model/types';

/**
 * What the board prints beside a pad. It is one text, wherever it is shown or changed: it stands with the pad, as the board has
 * it; as long as a net has no pad, or nobody has written there, it stands with the net and goes with it.
 */
export function labelAt(plan: Plan, pad: PadId): string {
  const own = entryOf(plan, 'label', pad);
  if (own !== undefined) return own;
  const net = plan.nets.find((one) => one.placement?.pad === pad && one.far?.label);
  return net?.far?.label ?? '';
}

/** The label of a net: that of its pad, or its own while it has none. */
export const labelOf = (plan: Plan, net: Net): string =>
  net.placement ? labelAt(plan, net.placement.pad) : (net.far?.label ?? '');

/** All labels that pads have, for those who look at many pads. */
export function labelsByPad(plan: Plan): Map<PadId, string> {
  const labels = new Map<PadId, string>();
  for (const net of plan.nets)
    if (net.placement && net.far?.label && !labels.has(net.placement.pad))
      labels.set(net.placement.pad, net.far.label);
  for (const [pad, label] of Object.entries(plan.tables?.label ?? {})) labels.set(pad, label);
  return labels;
}

/** Writes a pad's label, and takes it off the net that had it until now. Empty: there is none. */
export function setLabelAt(plan: Plan, pad: PadId, text: string): Edit {
  const edits: Edit[] = [];
  if ((entryOf(plan, 'label', pad) ?? '') !== text)
    edits.push(setEntry(plan, 'label', pad, text === '' ? null : text));
  for (const net of plan.nets) {
    if (net.placement?.pad !== pad || !net.far?.label) continue;
    const { label: _moved, ...rest } = net.far;
    edits.push(setFar(net, rest));
  }
  const [only] = edits;
  const label = text === '' ? `no label beside ${pad}` : `label ${pad} ${text}`;
  return edits.length === 1 && only ? only : { kind: 'batch', label, edits };
}

/** Writes a net's label where it belongs. */
export const setLabelOf = (plan: Plan, net: Net, text: string): Edit =>
  net.placement
    ? setLabelAt(plan, net.placement.pad, text)
    : setFar(net, { ...net.far, label: text === '' ? undefined : text });
