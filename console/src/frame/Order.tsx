import { useState } from 'react';
import { useTranslation } from 'react-i18next';

/** A list with one of its entries at another place. */
export function moved<T>(all: readonly T[], from: number, to: number): T[] {
  const rest = all.filter((_, n) => n !== from);
  const one = all[from];
  return one === undefined ? rest : [...rest.slice(0, to), one, ...rest.slice(to)];
}

/** The entries of a list can be dragged to another place: what each of them needs for it. */
export function useDrag(move: (from: number, to: number) => void, may = true) {
  const [dragged, setDragged] = useState<number>();
  const [over, setOver] = useState<number>();
  const done = () => {
    setDragged(undefined);
    setOver(undefined);
  };
  return (at: number) => ({
    draggable: may,
    className: over === at && dragged !== undefined && dragged !== at ? 'target' : undefined,
    onDragStart: () => setDragged(at),
    onDragOver: (e: React.DragEvent) => {
      if (dragged !== undefined) {
        e.preventDefault();
        setOver(at);
      }
    },
    onDragEnd: done,
    onDrop: () => {
      if (dragged !== undefined && dragged !== at) {
        move(dragged, at);
      }

      done();
    },
  });
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
