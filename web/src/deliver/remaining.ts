/** Seconds that are left, as a person reads them. */
export const remaining = (s: number) => (s < 60 ? `${Math.ceil(s)} s left` : `${Math.ceil(s / 60)} min left`);
