import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { good, Refused } from '../../api/client';
import { useSettled } from '../../frame/useSettled';
import { Glance } from '../../Pages/Glance';

/** A visitor's page while it is edited; what the service says of a draft that does not hold stands in its place. */
export function PagePreview({
  name,
  draft,
  ask,
  title,
  hint,
  above,
  at,
}: {
  name: string;
  /** What is looked at, as JSON. */
  draft: string;
  ask: (draft: string) => Parameters<typeof good<{ address: string }>>[0];
  title: string;
  hint: string;
  /** What stands above the page, such as a choice of which. */
  above?: ReactNode;
  /** Another page than the one that the service names, in the same draft. */
  at?: (address: string) => string;
}) {
  const settled = useSettled(draft, 600);
  const page = useQuery({
    queryKey: ['preview', name, settled],
    queryFn: () => good(ask(settled)),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (before) => before,
  });
  const refused = page.error instanceof Refused ? page.error : undefined;
  return (
    <aside className="form-preview" aria-label={title}>
      {page.isError && (
        <div className="note" role="status">
          <ul className="bare">
            {(refused?.faults.length ? refused.faults : [{ field: '', message: page.error.message }]).map((one) => (
              <li key={one.field + one.message}>
                {one.field && <code>{one.field}</code>} {one.message}
              </li>
            ))}
          </ul>
        </div>
      )}
      {above}
      {page.data && <Glance title={title} src={at ? at(page.data.address) : page.data.address} />}
      <p className="hint">{hint}</p>
    </aside>
  );
}
