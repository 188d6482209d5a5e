import { useEffect, useState } from 'react';

/** The value once it has not changed for so long, in milliseconds: what is asked of the service while somebody types. */
export function useSettled<T>(value: T, milliseconds: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const waiting = setTimeout(() => setSettled(value), milliseconds);
    return () => clearTimeout(waiting);
  }, [value, milliseconds]);
  return settled;
}
