import { Popover } from '@mantine/core';
import { type ReactNode, useState } from 'react';

/** A part of the sentence that is the control that edits it. */
export function Blank({
  name,
  words,
  todo,
  children,
}: {
  name: string;
  words: string;
  todo?: boolean;
  children: ReactNode | ((close: () => void) => ReactNode);
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      opened={open}
      onChange={setOpen}
      position="bottom-start"
      trapFocus
      returnFocus
      shadow="lg"
      transitionProps={{ duration: 0 }}
      radius={10}
      offset={4}
      withinPortal
    >
      <Popover.Target>
        <button
          type="button"
          className={todo ? 'blank todo' : 'blank'}
          aria-haspopup="dialog"
          aria-expanded={open}
          aria-label={`${name}: ${words}`}
          onClick={() => setOpen(!open)}
        >
          {words}
        </button>
      </Popover.Target>
      <Popover.Dropdown p={8} aria-label={name} style={{ background: 'var(--sheet)', borderColor: 'var(--line)', color: 'var(--ink)' }}>
        <div className="pop">{typeof children === 'function' ? children(() => setOpen(false)) : children}</div>
      </Popover.Dropdown>
    </Popover>
  );
}

/** A list of which one is chosen. */
export function Choice<T extends string>({
  legend,
  value,
  options,
  choose,
}: {
  legend: string;
  value: T;
  options: readonly { value: T; words: string; hint?: string }[];
  choose: (value: T) => void;
}) {
  return (
    <fieldset>
      <legend>{legend}</legend>
      {options.map((option) => (
        <label className="opt" key={option.value}>
          <input type="radio" name={legend} checked={option.value === value} onChange={() => choose(option.value)} />
          <span>{option.words}</span>
          {option.hint && <small>{option.hint}</small>}
        </label>
      ))}
    </fieldset>
  );
}

/** A box that is ticked or not. */
export function Tick({ words, hint, on, set }: { words: string; hint?: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="opt">
      <input type="checkbox" checked={on} onChange={(event) => set(event.currentTarget.checked)} />
      <span>{words}</span>
      {hint && <small>{hint}</small>}
    </label>
  );
}
