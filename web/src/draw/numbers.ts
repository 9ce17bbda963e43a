/** Megahertz to the kilohertz. */
export const mhz = (hz: number) => (hz / 1e6).toFixed(3);

/** A band's name as it is read: 40 m. */
export const metres = (band: string) => band.replace(/(c?m)$/, " $1");

/** So many of them: 1 contact, 2 contacts. */
export const many = (n: number, one: string) => `${n} ${one}${n === 1 ? "" : "s"}`;
