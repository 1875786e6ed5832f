import { offerOf } from '../../device/offers';
import { placeNet, setRole } from '../../plan/make-edits';
import { whyNot } from '../../plan/resolve';
import { roleText } from '../../plan/types';
import type { Remedy, Report, Rule } from '../types';
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
  check(context) {
    return context.resolved.flatMap(({ net, pad, terminals, fits }): Report[] => {
      if (!pad || fits || terminals.length === 0 || pad.kind !== 'io') return [];
      const why = whyNot(context.device, context.pkg, net.role, pad);
      const homes = homesOf(context, net.role.kind === 'signal' ? net.role.signal : undefined);
      const moves = context.movesFor(net, 3);
      const remedies: Remedy[] = [...moves];
      if (moves.length === 0)
        remedies.push({ label: `take ${net.name} off ${pad.id}`, edit: placeNet(net, null) });
      if (net.role.kind === 'signal') remedies.push(...otherInstances(context, net, pad.id));
      return [
        {
          message: `\`${net.name}\` needs ${roleText(net.role)}, but ${why}.${homes}`,
          pads: [pad.id],
          nets: [net.id],
          remedies,
        },
      ];
    });
  },
};

function homesOf(context: Parameters<Rule['check']>[0], signal: string | undefined): string {
  if (signal === undefined) return '';
  const pads = (context.device.functionsBySignal.get(signal) ?? []).map((fn) => fn.pad);
  const here = offerOf(context.device, context.pkg)
    .carrying(signal)
    .map((fn) => fn.pad);
  if (pads.length === 0) return ` The part has no signal \`${signal}\`.`;
  if (here.length === 0)
    return ` In ${context.pkg.name} no terminal carries it.${takenAway(context, { kind: 'signal', signal })}`;
  return ` In ${context.pkg.name} it is on ${here.map((pad) => `\`${pad}\``).join(', ')}.`;
}

/** The same line of another instance that this very pad offers and nobody uses. */
function otherInstances(
  context: Parameters<Rule['check']>[0],
  net: Parameters<typeof setRole>[0],
  pad: string,
): Remedy[] {
  if (net.role.kind !== 'signal') return [];
  const kind = context.device.kindOf(net.role.signal);
  const line = context.device.lineOf(net.role.signal);
  return offerOf(context.device, context.pkg)
    .of(pad)
    .filter((fn) => fn.mux !== null && kind !== undefined && context.device.kindOf(fn.signal) === kind)
    .filter((fn) => context.device.lineOf(fn.signal) === line && !context.bySignal.has(fn.signal))
    .map((fn) => ({
      label: `make it ${fn.signal}`,
      edit: setRole(net, { kind: 'signal', signal: fn.signal }),
    }));
}
