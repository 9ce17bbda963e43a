// The closing line of make test: Go tests and journeys together.
import { readFileSync } from "node:fs";

const go = JSON.parse(readFileSync("bin/gotest.json", "utf8"));
const { stats } = JSON.parse(readFileSync("bin/journeys.json", "utf8"));
const passed = stats.expected + stats.flaky;
console.log(`Journeys: ${passed} passed, ${stats.unexpected} failed`);
console.log(`${go.passed + passed} passed, ${go.failed + stats.unexpected} failed`);
