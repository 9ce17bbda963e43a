/** Where one was: the outing and the antenna at hand survive the page. */
export const lastOuting = () => localStorage.getItem("at:outing") ?? undefined;
export const keepOuting = (id: string) => localStorage.setItem("at:outing", id);
export const lastDeployment = (outing: string) => localStorage.getItem(`at:deployment:${outing}`) ?? undefined;
export const keepDeployment = (outing: string, id: string) => localStorage.setItem(`at:deployment:${outing}`, id);
