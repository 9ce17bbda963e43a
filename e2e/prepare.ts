import { cpSync } from "node:fs";
import { App, prepared } from "./app";

/** Makes the demo notebook once, which takes seconds of solving, and starts a program on a copy of it for all who only read. */
export default async function prepare() {
  const made = new App("demo");
  await made.start();
  await made.stop();
  const shared = new App("demo");
  cpSync(made.data, shared.data, { recursive: true });
  await shared.start();
  process.env[prepared.data] = made.data;
  process.env[prepared.url] = shared.url;
  return async () => {
    await shared.remove();
    await made.remove();
  };
}
