/** Megahertz to the kilohertz. */
export const mhz = (hz: number) => (hz / 1e6).toFixed(3);

/** A band's name as it is read: 40 m. */
export const metres = (band: string) => band.replace(/(c?m)$/, " $1");

type Length = { m?: number; metric?: string; imperial?: string };

/** A length as one cuts it, to the millimetre. */
export const toCut = (l: Length, imperial: boolean) => (imperial ? (l.imperial ?? "") : `${(l.m ?? 0).toFixed(3)} m`);

/** A length as one hangs it, to the centimetre. */
export const toHang = (l: Length, imperial: boolean) => (imperial ? (l.imperial ?? "") : `${(l.m ?? 0).toFixed(2)} m`);

/** What is added to a length, in centimetres to the millimetre. */
export const toAdd = (l: Length, imperial: boolean) => (imperial ? (l.imperial ?? "") : `${((l.m ?? 0) * 100).toFixed(1)} cm`);

/** So many of them: 1 contact, 2 contacts. */
export const many = (n: number, one: string) => `${n} ${one}${n === 1 ? "" : "s"}`;

/** Decibels, or what else differs, with their sign. */
export const signed = (v: number, digits = 1) => `${v > 0 ? "+" : ""}${v.toFixed(digits)}`;

/** A sentence whose numbers keep their units beside them where it is broken into lines. */
export const unbroken = (text: string) => text.replace(/(\d) (dB|k?m|cm|W|%)(?![\w])/g, "$1\u00a0$2");
