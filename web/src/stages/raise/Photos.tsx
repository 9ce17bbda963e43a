import TextField from "@mui/material/TextField";
import { useState } from "react";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble } from "../../api/client";
import { send } from "../../api/outbox";
import { base64, FileButton } from "../../parts/Import";
import { remove } from "../../parts/Undo";
import "./raise.css";

/** The longer side that is kept, in pixels. */
const side = 1600;

/** A picture made smaller and drawn anew, so that nothing but the picture leaves the device. */
async function smaller(file: File): Promise<File> {
  let bitmap: ImageBitmap;
  try {
    bitmap = await createImageBitmap(file, { imageOrientation: "from-image" });
  } catch {
    throw new Error(`${file.name} cannot be read as a picture. Use JPEG or PNG.`);
  }
  const scale = Math.min(1, side / Math.max(bitmap.width, bitmap.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.max(1, Math.round(bitmap.width * scale));
  canvas.height = Math.max(1, Math.round(bitmap.height * scale));
  const pen = canvas.getContext("2d");
  if (!pen) throw new Error("This browser cannot draw pictures.");
  pen.fillStyle = "#fff";
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  bitmap.close();
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/jpeg", 0.84));
  if (!blob) throw new Error("The picture could not be made smaller.");
  return new File([blob], "photo.jpg", { type: "image/jpeg" });
}

/** Pictures of how it stood: added by camera or file, each with a line of words. */
export function Photos({ of }: { of: Schemas["DeploymentDetail"] }) {
  const [caption, setCaption] = useState("");
  const [busy, setBusy] = useState(false);
  const [told, setTold] = useState("");
  const add = async (file: File) => {
    setTold("");
    setBusy(true);
    try {
      if (file.size > 40 * 1024 * 1024) throw new Error(`${file.name} has ${Math.round(file.size / 1048576)} MB; at most 40 are read.`);
      const content = await base64(await smaller(file));
      const body = { deployment_id: of.deployment.id, caption, content };
      const done = await send("put", "/api/photos/{id}", { id: uuid() }, body, `Photo ${caption || file.name}`);
      setCaption("");
      if (!done) setTold("No connection: the photo is saved on this device, synced later.");
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : (e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <section className="stack tight" aria-label="Photos">
      {of.photos.length > 0 && (
        <ul className="photos">
          {of.photos.map((p) => (
            <li key={p.id}>
              <a href={`/api/photos/${p.id}`} target="_blank" rel="noreferrer">
                <img src={`/api/photos/${p.id}`} alt={p.caption || "the set-up"} width={p.width} height={p.height} loading="lazy" />
              </a>
              <span className="small">
                {p.caption}{" "}
                <button
                  type="button"
                  className="linkbtn small slim"
                  onClick={async () => {
                    await remove("photo", p.id, p.version, "The photo is deleted.");
                  }}
                >
                  delete
                </button>
              </span>
            </li>
          ))}
        </ul>
      )}
      <TextField label="Caption" name="caption" value={caption} onChange={(e) => setCaption(e.target.value)} autoComplete="off" />
      <div className="row">
        <FileButton label="Add a photo" name="photo" accept="image/jpeg,image/png" onFile={(f) => void add(f)} />
        {busy && <span role="status">Resizing photo…</span>}
      </div>
      <p className="small soft">Saved at {side} pixels at most, without the place and time that a camera notes in it.</p>
      {told && (
        <div className="note error" role="alert">
          {told}
        </div>
      )}
    </section>
  );
}
