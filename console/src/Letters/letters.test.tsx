import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { describe, expect, it, vi } from 'vitest';
import { TemplateField } from './TemplateField';

const variables = [
  { name: 'member.name', about: 'The name of the reader', sample: 'Ada', needed: false },
  { name: 'member.email', about: 'The address of the reader', sample: 'a@b', needed: false },
  { name: 'link', about: 'The link that does it', sample: 'https://x', needed: true },
];

function Shown({ said }: { said: (value: string) => void }) {
  const [value, setValue] = useState('');
  return (
    <QueryClientProvider client={new QueryClient()}>
      <TemplateField
        id="html"
        label="Letter"
        value={value}
        bad={undefined}
        lines={4}
        variables={variables}
        readOnly={false}
        onChange={(next) => {
          setValue(next);
          said(next);
        }}
      />
    </QueryClientProvider>
  );
}

describe('a part of a template', () => {
  it('offers the names that fit while one is typed, by arrows and Enter', async () => {
    const said = vi.fn();
    render(<Shown said={said} />);
    const field = screen.getByLabelText('Letter');
    await userEvent.type(field, 'Hello {{{{ mem');
    expect(screen.getAllByRole('option').map((one) => one.textContent)).toEqual([
      'member.name The name of the reader',
      'member.email The address of the reader',
    ]);
    await userEvent.keyboard('{ArrowDown}{Enter}');
    expect(said).toHaveBeenLastCalledWith('Hello {{ member.email }}');
    expect(screen.queryByRole('option')).toBeNull();
  });

  it('leaves what is offered by Escape, and sends nothing', async () => {
    const said = vi.fn();
    render(<Shown said={said} />);
    await userEvent.type(screen.getByLabelText('Letter'), '{{{{ li');
    await userEvent.keyboard('{Escape}');
    expect(screen.queryByRole('option')).toBeNull();
    expect(said).toHaveBeenLastCalledWith('{{ li');
  });

  it('puts a name in where the caret stands, and says which are needed', async () => {
    const said = vi.fn();
    render(<Shown said={said} />);
    await userEvent.type(screen.getByLabelText('Letter'), 'Go: ');
    await userEvent.click(screen.getByRole('button', { name: /^link/ }));
    expect(said).toHaveBeenLastCalledWith('Go: {{ link }}');
    expect(screen.getByRole('button', { name: /^link/ }).textContent).not.toBe('link');
  });
});
