import type { ComponentProps, ReactNode } from 'react';

type Control =
  | ({ as?: 'input' } & ComponentProps<'input'>)
  | ({ as: 'select' } & ComponentProps<'select'>)
  | ({ as: 'textarea' } & ComponentProps<'textarea'>);

type About = {
  id: string;
  label: string;
  /** What helps to fill it in. */
  hint?: string | undefined;
  /** What is wrong with it; stands beneath it and is read with it. */
  bad?: string | undefined;
  /** Over the whole width of its form. */
  wide?: boolean;
  /** A button inside the field, at its end. */
  end?: ReactNode;
};

/** One thing to fill in: its label, the control, what helps, and what is wrong with it. Every form of the console is made of these. */
export function Field({ id, label, hint, bad, wide, end, ...control }: About & Control) {
  const beneath = [hint && `${id}-hint`, bad && `${id}-bad`].filter(Boolean).join(' ');
  const said = {
    id,
    className: 'field',
    'aria-invalid': bad !== undefined,
    'aria-describedby': beneath || undefined,
  };
  const drawn = draw(said, control as Control);
  return (
    <div className={wide ? 'wide' : undefined}>
      <label className="name" htmlFor={id}>
        {label}
      </label>
      {end ? (
        <span className="pw">
          {drawn}
          {end}
        </span>
      ) : (
        drawn
      )}
      {hint && (
        <p className="hint" id={`${id}-hint`}>
          {hint}
        </p>
      )}
      {bad && (
        <p className="bad" id={`${id}-bad`}>
          {bad}
        </p>
      )}
    </div>
  );
}

function draw(said: { id: string; className: string }, { as, ...control }: Control) {
  switch (as) {
    case 'select':
      return <select {...said} {...(control as ComponentProps<'select'>)} />;
    case 'textarea':
      return <textarea {...said} {...(control as ComponentProps<'textarea'>)} />;
    default:
      return <input autoComplete="off" {...said} {...(control as ComponentProps<'input'>)} />;
  }
}
