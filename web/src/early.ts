import { ahead } from "./api/client";
import { readDraft } from "./parts/draft";
import { lastDeployment } from "./parts/place";
import { screens } from "./screens";

/** What the page at an address will ask for. It is fetched beside the scripts, not behind them. */
async function begin([first = "", id = "", stage = ""]: string[]) {
  void ahead("/api/access");
  void ahead("/api/me");
  if (first === "") return ahead("/api/outings");
  void screens[(first === "o" ? stage : first) as keyof typeof screens]?.();
  if (first === "bag" || first === "bench" || stage === "cut" || stage === "raise") void ahead("/api/bag");
  void ahead("/api/reference", { query: { region: 1 } });
  if (first !== "o" || new URLSearchParams(location.search).has("new")) return;
  if (stage === "work") void ahead("/api/outings/{id}/log", { path: { id } });
  if (stage === "weigh") void ahead("/api/tags");
  const outing = ahead("/api/outings/{id}", { path: { id } });
  if (!["cut", "raise", "sweep"].includes(stage)) return;
  const tag = lastDeployment(id) ?? (await outing)?.tags[0]?.id;
  if (!tag) return;
  void ahead("/api/deployments/{id}", { path: { id: tag } });
  const band = readDraft<string>(`band:${tag}`) ?? "";
  if (stage === "sweep") void ahead("/api/deployments/{id}/reading", { path: { id: tag }, query: { band, revision: "" } });
}

void begin(location.pathname.split("/").slice(1));
