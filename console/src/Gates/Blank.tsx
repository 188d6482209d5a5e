import {
  autoUpdate,
  FloatingFocusManager,
  FloatingPortal,
  flip,
  offset,
  shift,
  size,
  useDismiss,
  useFloating,
  useInteractions,
} from '@floating-ui/react';
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
  const { refs, floatingStyles, context } = useFloating({
    open,
    onOpenChange: setOpen,
    placement: 'bottom-start',
    whileElementsMounted: autoUpdate,
    middleware: [
      offset(4),
      flip({ padding: 8 }),
      shift({ padding: 8 }),
      size({
        padding: 8,
        apply: ({ availableHeight, elements }) => elements.floating.style.setProperty('max-height', `${availableHeight}px`),
      }),
    ],
  });
  const { getReferenceProps, getFloatingProps } = useInteractions([useDismiss(context)]);
  return (
    <>
      <button
        ref={refs.setReference}
        type="button"
        className={todo ? 'blank todo' : 'blank'}
        aria-haspopup="dialog"
        aria-expanded={open}
        aria-label={`${name}: ${words}`}
        {...getReferenceProps({ onClick: () => setOpen(!open) })}
      >
        {words}
      </button>
      {open && (
        <FloatingPortal>
          <FloatingFocusManager context={context}>
            <div ref={refs.setFloating} className="pop" role="dialog" aria-label={name} style={floatingStyles} {...getFloatingProps()}>
              {typeof children === 'function' ? children(() => setOpen(false)) : children}
            </div>
          </FloatingFocusManager>
        </FloatingPortal>
      )}
    </>
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
