import { splitSignal } from '../../../description/types';
import { offerOf } from '../../../device/offers';
import { placeNet, setRole } from '../../../plan/edits/make-edits';
import type { ResolvedNet } from '../../resolve/resolve';
import type { Remedy, Report, Rule, RuleContext } from '../types';

export const signalTwice: Rule = {
  meta: {
    id: 'signal-twice',
    severity: 'error',
    title: 'Same signal placed twice',
    means: 'One line of a peripheral is routed to two pads; at most one of them works, or the two fight.',
    fix: 'Give one of the nets another instance, or take one of them off.',
  },
  per: 'plan',
  check(context) {
    return [...context.bySignal].flatMap(([signal, placed]): Report[] => {
      if (placed.length < 2 || context.device.lineOf(signal)?.direction === 'analog') return [];
      const where = placed.map((one) => `\`${one.net.name}\` on \`${one.pad?.id}\``).join(' and ');
      return [
        {
          message: `\`${signal}\` is placed ${placed.length === 2 ? 'twice' : `${placed.length} times`}: ${where}.`,
          pads: placed.flatMap((one) => (one.pad ? [one.pad.id] : [])),
          nets: placed.map((one) => one.net.id),
          remedies: (now) => (placed.length === 2 ? remediesFor(now, signal, placed) : []),
        },
      ];
    });
  },
};

function remediesFor(context: RuleContext, signal: string, placed: readonly ResolvedNet[]): Remedy[] {
  const free = [...placed].reverse().filter((one) => !one.net.placement?.locked);
  const moves = free
    .filter((one) => one.net.role.kind === 'open-signal')
    .flatMap((one) => context.movesFor(one.net, 2));
  const others = free.flatMap((one) => otherSignals(context, signal, one));
  const off = free.map((one): Remedy => {
    const [instance] = splitSignal(signal);
    return { label: `take ${one.net.name} off ${instance}`, edit: placeNet(one.net, null) };
  });
  return [...moves, ...others.slice(0, 2), ...off].slice(0, 4);
}

/** Other lines of the same kind of peripheral that the net's pad offers and nobody uses. */
function otherSignals(context: RuleContext, signal: string, { net, pad }: ResolvedNet): Remedy[] {
  const kind = context.device.kindOf(signal);
  return offerOf(context.device, context.pkg)
    .of(pad?.id ?? '')
    .filter(
      (fn) =>
        (fn.mux !== null || fn.itself) &&
        context.device.kindOf(fn.signal) === kind &&
        !context.bySignal.has(fn.signal),
    )
    .map((fn) => ({
      label: `make ${net.name} ${fn.signal}`,
      edit: setRole(net, { kind: 'signal', signal: fn.signal }),
    }));
}
