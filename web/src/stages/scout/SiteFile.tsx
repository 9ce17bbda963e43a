import { FileButton, PreviewNotes, useImport } from "../../parts/Import";

/** A site from a GPX or GeoJSON file: what was read and guessed is shown before it takes the place of the lines. */
export function SiteFile({ take }: { take: (lines: string[]) => void }) {
  const { preview, trouble, open, choose, close } = useImport();
  const lines = preview?.site?.lines;
  return (
    <div className="stack tight">
      <div>
        <FileButton label="Import GPX or GeoJSON" accept=".gpx,.geojson,.json" name="site-file" onFile={(f) => void open(f)} />
      </div>
      {trouble && <p className="note error small">{trouble}</p>}
      {preview && !lines && <p className="note error small">{preview.name} is no map of a site: GPX or GeoJSON is taken here.</p>}
      {preview && lines && (
        <div className="stack tight note">
          <PreviewNotes of={preview} choose={choose} />
          <ul className="plain small mono low">
            {lines.map((l) => (
              <li key={l}>{l}</li>
            ))}
          </ul>
          <div className="row">
            <button
              type="button"
              className="linkbtn"
              onClick={() => {
                take(lines);
                close();
              }}
            >
              Add these lines
            </button>
            <button type="button" className="linkbtn" onClick={close}>
              Cancel
            </button>
          </div>
        </div>
      )}
    </div>
  );
}
