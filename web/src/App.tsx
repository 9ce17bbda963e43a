import { Component, lazy, type ReactNode, Suspense, useEffect } from "react";
import { Navigate, Route, Routes, useLocation, useParams, useSearchParams } from "react-router";
import { useOuting } from "./api/client";
import { HeadLine } from "./parts/HeadLine";
import { Keys } from "./parts/Keys";
import { Opening } from "./parts/Opening";
import { keepOuting } from "./parts/place";
import { Refused } from "./parts/Refused";
import { Stalk } from "./parts/Stalk";
import { Undo } from "./parts/Undo";
import { screens } from "./screens";
import { Shelf } from "./stages/shelf/Shelf";

const Settings = lazy(screens.settings);
const Bag = lazy(screens.bag);
const Bench = lazy(screens.bench);
const Practice = lazy(screens.practice);
const NewOuting = lazy(() => screens.scout().then((m) => ({ default: m.OutingForm })));
const stage = {
  scout: lazy(screens.scout),
  cut: lazy(screens.cut),
  raise: lazy(screens.raise),
  sweep: lazy(screens.sweep),
  work: lazy(screens.work),
  weigh: lazy(screens.weigh),
};

/** A screen that fails says so and leaves the rest standing; what was typed is kept as a draft. */
class Guard extends Component<{ children: ReactNode }, { broke?: Error }> {
  state: { broke?: Error } = {};
  static getDerivedStateFromError = (broke: Error) => ({ broke });
  render() {
    if (!this.state.broke) return this.props.children;
    return (
      <div className="note error" role="alert">
        This screen failed ({this.state.broke.message}). What you typed is kept.{" "}
        <button type="button" className="linkbtn" onClick={() => location.reload()}>
          Open it again
        </button>
      </div>
    );
  }
}

function Book({ outing, title, children }: { outing?: string; title?: string; children: ReactNode }) {
  const detail = useOuting(outing);
  const known = outing ? detail.data : undefined;
  useEffect(() => {
    document.title = `${known?.outing.name ?? title ?? "…"} · Itinerant Reed`;
  }, [known, title]);
  return (
    <div className="book">
      <a className="skip" href="#main">
        To the page
      </a>
      <Stalk outing={outing} states={known?.stages ?? []} />
      <div className="sheet">
        <HeadLine outing={known} title={outing ? "…" : title} />
        <main id="main" className="main" tabIndex={-1}>
          <Refused />
          <Guard>
            <Suspense fallback={<Opening />}>{children}</Suspense>
          </Guard>
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
  const Screen = stage[name as keyof typeof stage];
  if (fresh)
    return (
      <Book title="A new outing">
        <h1>Where to, and when?</h1>
        <NewOuting />
      </Book>
    );
  if (!Screen) return <Navigate to={`/o/${outing}/scout`} replace />;
  return <Book outing={outing}>{detail.data ? <Screen key={outing} outing={detail.data} /> : <Opening of={[detail]} />}</Book>;
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
              <Settings />
            </Book>
          }
        />
        <Route
          path="/bag"
          element={
            <Book title="The bag">
              <Bag />
            </Book>
          }
        />
        <Route
          path="/bench"
          element={
            <Book title="The bench">
              <Bench />
            </Book>
          }
        />
        <Route
          path="/practice"
          element={
            <Book title="Practice">
              <Practice />
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
