/** Single-key shortcuts can be switched off on this device. */
const offKey = "single-keys-off";
export const keysOff = () => localStorage.getItem(offKey) === "1";
export const switchKeys = (off: boolean) => localStorage.setItem(offKey, off ? "1" : "0");

/** For a second after a line was sent no key is a shortcut: the next call may be typed already. */
let pausedUntil = 0;
export const pauseKeys = () => {
  pausedUntil = performance.now() + 1000;
};
export const keysPaused = () => performance.now() < pausedUntil;
