import { offerOf } from '../../../device/offers';
import { placeNet, setRole } from '../../../plan/edits/make-edits';
import { roleText } from '../../../plan/model/types';
import { whyNot } from '../../resolve/resolve';
import type { PackagedPart, Remedy, Rule, RuleContext } from '../types';
import { takenAway } from '../words';

export const functionNotHere: Rule = {
  meta: {
    id: 'function-not-here',
    severity: 'error',
    title: 'Function not on that pad',
    means:
      'The pad cannot be what the net asks of it: it lacks the signal, the analog channel or the output stage.',
    fix: 'Move the net to a pad that offers it, or change what the net is.',
  },
  per: 'placed net',
  check({ net, pad, fits }, part) {
    if (fits || pad.kind !== 'io') return undefined;
    const why = whyNot(part.device, part.pkg, net.role, pad);
    const alternatives = alternativesOf(part, net.role.kind === 'signal' ? net.role.signal : undefined);
    return {
      message: `\`${net.name}\` needs ${roleText(net.role)}, but ${why}.${alternatives}`,
      pads: [pad.id],
      nets: [net.id],
      remedies(context) {
        const moves = context.movesFor(net, 3);
        return [
          ...moves,
          ...(moves.length === 0
            ? [{ label: `take ${net.name} off ${pad.id}`, edit: placeNet(net, null) }]
            : []),
          ...(net.role.kind === 'signal' ? otherInstances(context, net, pad.id) : []),
        ];
      },
    };
  },
};

function alternativesOf(context: PackagedPart, signal: string | undefined): string {
  if (signal === undefined) return '';
  const pads = (context.device.functionsBySignal.get(signal) ?? []).map((fn) => fn.pad);
  const here = offerOf(context.device, context.pkg)
    .carrying(signal)
    .map((fn) => fn.pad);
  if (pads.length === 0) return ` The part has no signal \`${signal}\`.`;
  if (here.length === 0)
    return ` In ${context.pkg.name} no pin carries it.${takenAway(context, { kind: 'signal', signal })}`;
  return ` In ${context.pkg.name} it is on ${here.map((pad) => `\`${pad}\``).join(', ')}.`;
}

/** The same line of another instance that this very pad offers and nobody uses. */
function otherInstances(context: RuleContext, net: Parameters<typeof setRole>[0], pad: string): Remedy[] {
  if (net.role.kind !== 'signal') return [];
  const kind = context.device.kindOf(net.role.signal);
  const line = context.device.lineOf(net.role.signal);
  return offerOf(context.device, context.pkg)
    .of(pad)
    .filter(
      (fn) =>
        (fn.mux !== null || fn.itself) && kind !== undefined && context.device.kindOf(fn.signal) === kind,
    )
    .filter((fn) => context.device.lineOf(fn.signal) === line && !context.bySignal.has(fn.signal))
    .map((fn) => ({
      label: `make it ${fn.signal}`,
      edit: setRole(net, { kind: 'signal', signal: fn.signal }),
    }));
}
