'use client';

import { isPlain, latchLevel, type ResolvedNet, settingKeysFor } from '@/core/derive/resolve/resolve';
import { orderOf, valueSays } from '@/core/description/meanings';
import type { SettingKey } from '@/core/description/settings';
import { lackOf, titleOn } from '@/core/device/available';
import type { Device } from '@/core/device/device';
import { interruptLine } from '@/core/device/interrupt-lines';
import { setSetting } from '@/core/plan/edits/make-edits';
import type { NetSettingKey } from '@/core/plan/model/types';
import { Segments } from '../parts/segments';
import { useActions, useDerived } from '../workspace/context';
import { Row, Section } from './section';
import { SleepChoice } from './sleep-choice';

/** A part's own token as people write it: "8mA" is 8 mA; or as the part says it. */
const labelOf = (device: Device, key: SettingKey, value: string): string =>
  valueSays(device.description.recipe, key, value) ?? value.replace(/^(\d+)mA$/, '$1 mA');

/** The settings of a net in circuit terms. What the pad does not have is struck through, with the reason. */
export function SettingsEditor({ resolved }: { resolved: ResolvedNet }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { device } = derived;
  const { net, pad, fn, planned } = resolved;
  const keys = settingKeysFor(device, resolved);
  const plain = isPlain(net.role);
  const lacks = new Map<string, string>();

  const label = (key: SettingKey, value: string): string => labelOf(device, key, value);
  const choicesOf = (key: SettingKey) =>
    orderOf(device.description.recipe, key).map((value) => {
      const lacking = pad && pad.kind === 'io' ? lackOf(device, pad, key, value, fn) : undefined;
      if (lacking)
        lacks.set(
          lacking,
          [...new Set([...(lacks.get(lacking)?.split(', ') ?? []), label(key, value)])].join(', '),
        );
      return { value, label: label(key, value), lacking };
    });

  const electrical = keys.filter((key) => key !== 'level');
  const rows = electrical.map((key) => {
    const name = key as NetSettingKey;
    const choices = choicesOf(key);
    const defaults = fn ? device.lineOf(fn.signal)?.defaults : undefined;
    const asked = net.settings[name];
    const value =
      // What is asked in a word of the trade is shown as what the part makes of it.
      (asked !== undefined && choices.some((one) => one.value === asked) ? asked : undefined) ??
      planned?.settings.values[key] ??
      defaults?.[name as 'pull'] ??
      choices[0]?.value ??
      '';
    return { key, name, choices, value };
  });
  if (!plain && rows.length === 0) {
    return (
      <Section title="Settings">
        <p className="text-soft">Analog: digital stages are off, nothing to set.</p>
        <SleepChoice resolved={resolved} />
      </Section>
    );
  }

  return (
    <Section id="net-settings" title={net.placement ? `On ${net.placement.pad} it is` : 'Settings'}>
      {plain && (
        <Row label="asserted">
          <Segments
            label="asserted"
            value={net.settings.active ?? 'high'}
            choices={[
              { value: 'high', label: 'high' },
              { value: 'low', label: 'low' },
            ]}
            onChange={(value) => dispatch(setSetting(net, 'active', value === 'high' ? null : value))}
          />
        </Row>
      )}
      {(net.role.kind === 'output' || net.role.kind === 'open-drain') && (
        <Row label="starts">
          <Segments
            label="starts"
            value={net.settings.start ?? 'inactive'}
            choices={[
              { value: 'inactive', label: 'inactive' },
              { value: 'asserted', label: 'asserted' },
            ]}
            onChange={(value) => dispatch(setSetting(net, 'start', value === 'inactive' ? null : value))}
          />
          <span className="ml-1.5 whitespace-nowrap text-soft">
            latch{' '}
            {latchLevel(net.role.kind === 'open-drain' ? { active: 'low', ...net.settings } : net.settings)}
          </span>
        </Row>
      )}
      {rows.map(({ key, name, choices, value }) => (
        <Row key={key} label={titleOn(device, key)}>
          <Segments
            label={titleOn(device, key)}
            value={value}
            choices={choices}
            onChange={(next) => dispatch(setSetting(net, name, next))}
          />
        </Row>
      ))}
      <SleepChoice resolved={resolved} />
      {net.role.kind === 'interrupt' && pad && <InterruptLine resolved={resolved} />}
      {lacks.size > 0 && (
        <ul className="mt-1 text-[12px] text-soft">
          {[...lacks].map(([why, values]) => (
            <li key={why}>
              <s>{values}</s>: {why}
            </li>
          ))}
        </ul>
      )}
      {pad && (
        <Row label="tolerates">
          <PadTolerance padClass={pad.class} />
        </Row>
      )}
    </Section>
  );
}

/** Which line reaches the interrupt controller, and with whom it is shared. */
function InterruptLine({ resolved }: { resolved: ResolvedNet }) {
  const { derived } = useDerived();
  const { interrupts } = derived.device.description;
  const { pad } = resolved;
  if (!interrupts || !pad) return null;
  const idOf = (one: typeof pad): string | undefined => {
    const found = interruptLine(derived.device, one);
    return found === undefined || found === 'none' ? undefined : found.id;
  };
  const own = interruptLine(derived.device, pad);
  const id = idOf(pad);
  const sharing = derived.resolved.filter(
    (one) =>
      one.net.id !== resolved.net.id &&
      one.net.role.kind === 'interrupt' &&
      one.pad !== undefined &&
      id !== undefined &&
      idOf(one.pad) === id,
  );
  const line =
    own === undefined || own === 'none'
      ? 'no line'
      : interrupts.lines === 'port'
        ? `port ${own.id}`
        : interrupts.lines === 'pad'
          ? 'its own'
          : `line ${own.id}`;
  return (
    <Row label="reaches">
      {line}
      {sharing.length > 0 && `, with ${sharing.map((one) => one.net.name).join(', ')}`}
      <div className="text-[12px] text-soft">{interrupts.why}</div>
    </Row>
  );
}

export function PadTolerance({ padClass }: { padClass: string | undefined }) {
  const { derived } = useDerived();
  const found = derived.device.description.padClasses[padClass ?? ''];
  if (!found) return <span className="text-soft">not stated</span>;
  return (
    <span>
      {found.toleratesVolts === undefined ? 'not stated' : `${found.toleratesVolts} V`}
      <span className="text-soft"> · {found.title} pad</span>
    </span>
  );
}
