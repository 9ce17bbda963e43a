import { useCallback, useState } from "react";
import { answered, type Schemas, Trouble, wire } from "../api/client";
import "./Import.css";

/** A file's bytes as base64, in pieces so that large files do not overflow the stack. */
export async function base64(file: File): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = "";
  for (let i = 0; i < bytes.length; i += 32768) text += String.fromCharCode(...bytes.subarray(i, i + 32768));
  return btoa(text);
}

export type FileInput = Schemas["FileInput"];

/** The preview of an import: what would be added, what was guessed, what is odd, before anything is written. */
export function useImport(outingId?: string, revisionId?: string) {
  const [input, setInput] = useState<FileInput>();
  const [preview, setPreview] = useState<Schemas["Preview"]>();
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const look = useCallback(async (next: FileInput) => {
    setBusy(true);
    setTrouble("");
    setPreview(undefined);
    try {
      setPreview(await answered(wire.POST("/api/preview", { body: next })));
      setInput(next);
    } catch (e) {
      setInput(undefined);
      setTrouble(e instanceof Trouble ? e.whole : String((e as Error).message));
    } finally {
      setBusy(false);
    }
  }, []);
  const open = async (file: File) => {
    if (file.size > 32 * 1024 * 1024) {
      setTrouble(`${file.name} has ${Math.round(file.size / 1048576)} MB; at most 32 MB are read. Split it.`);
      return;
    }
    await look({ name: file.name, content: await base64(file), outing_id: outingId });
  };
  const take = (answer: FileInput) => look({ ...answer, outing_id: outingId });
  const read = useCallback(
    (typed: string) => look({ name: "typed readings", typed, outing_id: outingId, revision_id: revisionId }),
    [look, outingId, revisionId],
  );
  const choose = (code: string, choice: string) => input && look({ ...input, choices: { ...input.choices, [code]: choice } });
  const close = () => {
    setInput(undefined);
    setPreview(undefined);
    setTrouble("");
  };
  return { input, preview, trouble, busy, open, read, take, choose, close };
}

export function FileButton({ label, accept, onFile, name }: { label: string; accept: string; onFile: (f: File) => void; name: string }) {
  return (
    <label className="filebutton">
      {label}
      <input
        type="file"
        aria-label={label}
        name={name}
        accept={accept}
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (f) onFile(f);
          e.target.value = "";
        }}
      />
    </label>
  );
}

const order = { error: 0, warning: 1, note: 2 };

export function PreviewNotes({ of, choose }: { of: Schemas["Preview"]; choose: (code: string, v: string) => void }) {
  const notes = [...of.notes].sort((a, b) => order[a.severity] - order[b.severity]);
  return (
    <>
      {of.guesses
        .filter((g) => g.options.length > 1)
        .map((g) => (
          <div key={g.code} className="row small">
            <span>{g.text}.</span>
            {g.code === "columns" ? (
              g.choice.split(" ").map((c, i) => (
                <select
                  key={i}
                  aria-label={`column ${i + 1}`}
                  value={c}
                  onChange={(e) =>
                    choose(
                      "columns",
                      g.choice
                        .split(" ")
                        .map((x, k) => (k === i ? e.target.value : x))
                        .join(" "),
                    )
                  }
                >
                  {g.options.map((o) => (
                    <option key={o}>{o}</option>
                  ))}
                </select>
              ))
            ) : (
              <select aria-label={g.code} value={g.choice} onChange={(e) => choose(g.code, e.target.value)}>
                {g.options.map((o) => (
                  <option key={o}>{o}</option>
                ))}
              </select>
            )}
          </div>
        ))}
      {notes.length > 0 && (
        <div className="scroll low" tabIndex={0} role="region" aria-label="What is odd in this file">
          {notes.map((n, i) => (
            <p key={i} className={`note small ${n.severity === "error" ? "error" : n.severity === "note" ? "quiet" : ""}`}>
              <span className="mono">
                {[n.line && `line ${n.line}`, n.record && `record ${n.record}`, n.field].filter(Boolean).join(", ")}
              </span>{" "}
              {n.text}
            </p>
          ))}
        </div>
      )}
    </>
  );
}
