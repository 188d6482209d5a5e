import { type ReactNode, useEffect, useRef } from 'react';

/** A question over the page: the browser's own dialog, which holds the keyboard and closes on Escape. */
export function Dialog({ title, close, children }: { title: string; close: () => void; children: ReactNode }) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    if (!dialog.current?.open) {
      dialog.current?.showModal();
    }
  }, []);
  return (
    <dialog ref={dialog} className="sheet" aria-label={title} onClose={close}>
      <h2>{title}</h2>
      {children}
    </dialog>
  );
}
