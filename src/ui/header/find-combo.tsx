'use client';

import { Command } from 'cmdk';
import { useMemo, useState } from 'react';
import { hasWords, wordsOf } from '@/core/base/text/search-words';
import { type Hit, search } from '@/core/derive/search';
import { COMMANDS } from '../commands/commands';
import { useActions, useDerived, useView } from '../workspace/context';
import type { ViewId } from '../workspace/selection';

/** Views in which what was found can be seen. */
const SHOWS: Record<Hit['kind'], readonly ViewId[]> = {
  pad: ['package', 'ports', 'functions'],
  net: ['package', 'ports', 'functions', 'board', 'bench'],
  bits: ['registers', 'bench'],
};

const KIND_WORDS: Record<Hit['kind'], string> = { pad: 'pad', net: 'net', bits: 'register' };

interface Props {
  /** What was typed before this was loaded. */
  typed: string;
  /** The caret was in the field. */
  focused: boolean;
}

/** The field with what it finds. */
export function FindCombo({ typed, focused }: Props) {
  const { derived } = useDerived();
  const { view } = useView();
  const { select, setView, current } = useActions();
  const [text, setText] = useState(typed);
  const [open, setOpen] = useState(focused);
  const hits = useMemo(() => (open ? search(derived, text) : []), [derived, text, open]);
  const commands =
    open && text.trim().length > 1
      ? COMMANDS.filter((command) => hasWords(wordsOf(text), [command.title]) && command.applies(current()))
      : [];

  function close() {
    setOpen(false);
    setText('');
    (document.activeElement as HTMLElement | null)?.blur();
  }

  return (
    <Command
      shouldFilter={false}
      loop
      label="Find"
      className="relative w-48 min-w-14 shrink"
      onKeyDown={(event) => {
        if (event.key === 'Escape') {
          event.stopPropagation();
          close();
        }
      }}
      onBlur={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget)) setOpen(false);
      }}
    >
      <Command.Input
        data-find=""
        autoFocus={focused}
        value={text}
        className="w-full"
        placeholder="net, pad, pin, signal, register …"
        onFocus={() => setOpen(true)}
        onValueChange={(value) => {
          setText(value);
          setOpen(true);
        }}
      />
      {!open && text === '' && (
        <kbd
          aria-hidden
          className="m pointer-events-none absolute right-1.5 max-md:hidden top-[5px] rounded-[3px] border border-b-2 border-rule bg-sheet px-1 leading-[15px] text-soft"
        >
          /
        </kbd>
      )}
      <Command.List
        className={`absolute right-0 top-full z-30 mt-1 max-h-96 w-[26rem] max-w-[90vw] overflow-auto border border-ink bg-sheet py-1 ${open && text.trim() !== '' ? '' : 'hidden'}`}
        onMouseDown={(event) => event.preventDefault()}
      >
        {open && text.trim() !== '' && (
          <>
            <Command.Empty className="px-3 py-1.5 text-soft">Nothing is called that.</Command.Empty>
            {hits.map((hit) => (
              <Command.Item
                key={`${hit.kind} ${hit.id}`}
                value={`${hit.kind} ${hit.id}`}
                aria-label={`${KIND_WORDS[hit.kind]} ${hit.title}, ${hit.detail}`}
                className="grid cursor-pointer grid-cols-[34px_auto_1fr] items-baseline gap-2 whitespace-nowrap px-3 py-0.5 data-[selected=true]:bg-pickbg"
                onSelect={() => {
                  select({ kind: hit.kind, id: hit.id });
                  if (!SHOWS[hit.kind].includes(view)) setView(hit.kind === 'bits' ? 'registers' : 'package');
                  close();
                }}
              >
                <span className="text-soft">{hit.kind === 'bits' ? 'reg.' : hit.kind}</span>
                <span className={hit.kind === 'net' ? 'font-medium' : 'm'}>{hit.title}</span>
                <span className="overflow-hidden text-ellipsis text-soft">{hit.detail}</span>
              </Command.Item>
            ))}
            {commands.map((command) => (
              <Command.Item
                key={command.id}
                value={`do ${command.id}`}
                className="grid cursor-pointer grid-cols-[34px_1fr_auto] items-baseline gap-2 px-3 py-0.5 data-[selected=true]:bg-pickbg"
                onSelect={() => {
                  close();
                  command.run(current());
                }}
              >
                <span className="text-soft">do</span>
                <span>{command.title}</span>
                <span className="m text-soft">{command.keys}</span>
              </Command.Item>
            ))}
          </>
        )}
      </Command.List>
    </Command>
  );
}
