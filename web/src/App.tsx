import { type ReactNode, useEffect } from "react";
import { Navigate, Route, Routes, useLocation, useParams, useSearchParams } from "react-router";
import { useOuting } from "./api/client";
import { ChangedElsewhere } from "./parts/Elsewhere";
import { Guard } from "./parts/Guard";
import { HeadLine } from "./parts/HeadLine";
import { Keys } from "./parts/Keys";
import { NewVersion } from "./parts/NewVersion";
import { Opening } from "./parts/Opening";
import { keepOuting } from "./parts/place";
import { Refused } from "./parts/Refused";
import { Screen } from "./parts/Screen";
import { Stalk } from "./parts/Stalk";
import { Undo } from "./parts/Undo";
import type { screens } from "./screens";
import { Shelf } from "./stages/shelf/Shelf";

const stages: string[] = ["scout", "cut", "raise", "sweep", "work", "weigh"] satisfies (keyof typeof screens)[];

function Book({ outing, title, children }: { outing?: string; title?: string; children: ReactNode }) {
  const { pathname } = useLocation();
  const detail = useOuting(outing);
  const known = outing ? detail.data : undefined;
  useEffect(() => {
    document.title = `${known?.outing.name ?? title ?? "…"} · Itinerant Reed`;
  }, [known, title]);
  return (
    <div className="book">
      <a className="skip" href="#main">
        Skip to content
      </a>
      <Stalk outing={outing} states={known?.stages ?? []} />
      <div className="sheet">
        <HeadLine outing={known} title={outing ? "…" : title} />
        <main id="main" className="main" tabIndex={-1}>
          <Refused />
          <NewVersion />
          <ChangedElsewhere />
          <Guard key={pathname}>{children}</Guard>
        </main>
      </div>
    </div>
  );
}

function OutingPage() {
  const { outing = "", stage: name = "scout" } = useParams();
  const [search] = useSearchParams();
  const fresh = search.has("new");
  const detail = useOuting(fresh ? undefined : outing);
  useEffect(() => {
    if (detail.data && !detail.data.outing.deleted) keepOuting(outing);
  }, [detail.data, outing]);
  if (fresh)
    return (
      <Book title="A new outing">
        <h1>New outing</h1>
        <Screen of="new" />
      </Book>
    );
  if (!stages.includes(name)) return <Navigate to={`/o/${outing}/scout`} replace />;
  return (
    <Book outing={outing}>
      {detail.data ? <Screen key={outing} of={name as keyof typeof screens} outing={detail.data} /> : <Opening of={[detail]} />}
    </Book>
  );
}

export function App() {
  const { pathname } = useLocation();
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new screen begins at its top
  useEffect(() => {
    scrollTo(0, 0);
  }, [pathname]);
  return (
    <>
      <Routes>
        <Route
          path="/"
          element={
            <Book title="The shelf">
              <Shelf />
            </Book>
          }
        />
        <Route
          path="/settings"
          element={
            <Book title="Settings">
              <Screen of="settings" />
            </Book>
          }
        />
        <Route
          path="/record"
          element={
            <Book title="Over all outings">
              <Screen of="record" />
            </Book>
          }
        />
        <Route
          path="/bag"
          element={
            <Book title="The bag">
              <Screen of="bag" />
            </Book>
          }
        />
        <Route
          path="/bench"
          element={
            <Book title="The bench">
              <Screen of="bench" />
            </Book>
          }
        />
        <Route
          path="/practice"
          element={
            <Book title="Practice">
              <Screen of="practice" />
            </Book>
          }
        />
        <Route path="/o/:outing/:stage" element={<OutingPage />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
      <Keys />
      <Undo />
    </>
  );
}
