// The closing line of make test: Go tests and journeys together.
import { readFileSync } from "node:fs";

const go = JSON.parse(readFileSync("bin/gotest.json", "utf8"));
const { stats } = JSON.parse(readFileSync("bin/journeys.json", "utf8"));
console.log(`Journeys: ${stats.expected} passed, ${stats.unexpected} failed`);
console.log(`${go.passed + stats.expected} passed, ${go.failed + stats.unexpected} failed`);
