/** The flag of a mark. */
export const Flag = () => (
  <svg width="11" height="14" viewBox="0 0 11 14" aria-hidden="true">
    <path d="M1.5 1 V13.5 M1.5 1.5 L10 3.5 L1.5 7" fill="none" stroke="currentColor" strokeWidth="1.6" />
  </svg>
);
