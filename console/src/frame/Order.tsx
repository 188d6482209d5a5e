import { useTranslation } from 'react-i18next';

/** A list with one of its entries at another place. */
export function moved<T>(all: readonly T[], from: number, to: number): T[] {
  const rest = all.filter((_, n) => n !== from);
  const one = all[from];
  return one === undefined ? rest : [...rest.slice(0, to), one, ...rest.slice(to)];
}

/** Moves an entry of a list up and down, by keyboard too, and takes it out. */
export function Order({
  name,
  at,
  count,
  move,
  drop,
}: {
  name: string;
  at: number;
  count: number;
  move: (to: number) => void;
  drop?: () => void;
}) {
  const { t } = useTranslation();
  return (
    <span className="order">
      <button type="button" className="btn" aria-label={t('order.up', { name })} disabled={at === 0} onClick={() => move(at - 1)}>
        ↑
      </button>
      <button type="button" className="btn" aria-label={t('order.down', { name })} disabled={at === count - 1} onClick={() => move(at + 1)}>
        ↓
      </button>
      {drop && (
        <button type="button" className="btn" aria-label={t('order.drop', { name })} onClick={drop}>
          ✕
        </button>
      )}
    </span>
  );
}
