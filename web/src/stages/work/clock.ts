/** The time of day in UTC. */
export const clock = (at: string, seconds: boolean) => new Date(at).toISOString().slice(11, seconds ? 19 : 16);

/** The date and time in UTC as people write them. */
export const stamp = (at: string, seconds: boolean) =>
  new Date(at)
    .toISOString()
    .slice(0, seconds ? 19 : 16)
    .replace("T", " ");
