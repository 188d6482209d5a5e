/** The mark of the product. */
export function Lantern() {
  return (
    <svg viewBox="0 0 32 32" aria-hidden="true">
      <path
        d="M11 9a5 5 0 0 1 10 0M8 11h16M9 26h14M10.500 11l-1.500 15M21.500 11l1.500 15"
        fill="none"
        stroke="currentColor"
        strokeWidth="2"
        strokeLinecap="round"
      />
      <path d="M16 14.500c2.200 2.300 3 3.600 3 5a3 3 0 0 1-6 0c0-1.400.8-2.700 3-5z" fill="var(--lantern)" />
    </svg>
  );
}
