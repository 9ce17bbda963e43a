/** Where one was: the outing and the antenna at hand survive the page. */
export const lastOuting = () => localStorage.getItem("at:outing") ?? undefined;
export const keepOuting = (id: string) => localStorage.setItem("at:outing", id);
export const lastDeployment = (outing: string) => localStorage.getItem(`at:deployment:${outing}`) ?? undefined;
export const keepDeployment = (outing: string, id: string) => localStorage.setItem(`at:deployment:${outing}`, id);

/** The antenna that contacts are logged to: chosen in Work alone. What is looked at elsewhere changes nothing of it. */
export const usedDeployment = (outing: string) => localStorage.getItem(`using:${outing}`) ?? undefined;
export const keepUsed = (outing: string, id: string) => localStorage.setItem(`using:${outing}`, id);
/** What stands apart from an outing. */
export const apart = [
  ["/", "Shelf"],
  ["/bag", "Bag"],
  ["/bench", "Bench"],
  ["/practice", "Practice"],
  ["/settings", "Settings"],
] as const;
