import type { Locator, Page } from "@playwright/test";
import { expect } from "./app";

/** A hand at the table or a thumb on the phone, that counts: presses, and the scrolls that they need first. */
export class Hand {
  presses = 0;
  scrolls = 0;
  /** The longest screen that was met, in heights of a phone, and where. */
  longest = { glasses: 0, at: "" };
  readonly steps: string[] = [];

  constructor(
    private readonly page: Page,
    private readonly thumb: boolean,
  ) {}

  /** Brings a thing into sight as a person would: by strokes of three quarters of the glass, or not at all. */
  private async reach(at: Locator, what: string) {
    await expect(at).toBeVisible();
    const fixed = await at.evaluate((e) => {
      for (let x: Element | null = e; x; x = x.parentElement) if (getComputedStyle(x).position === "fixed") return true;
      return false;
    });
    if (fixed) return;
    const glass = await this.page.evaluate(() => ({ height: innerHeight, foot: innerWidth < 821 ? 76 : 0 }));
    for (let i = 0; i < 20; i++) {
      const box = await at.boundingBox();
      if (!box) throw new Error(`${what} is not there`);
      const middle = box.y + Math.min(box.height, 60) / 2;
      const top = this.thumb ? 60 : 4;
      if (middle > top && middle < glass.height - glass.foot) return;
      const stroke = 0.75 * glass.height;
      const by = Math.max(-stroke, Math.min(stroke, middle - glass.height * 0.45));
      this.scrolls++;
      this.steps.push(`scroll to ${what}`);
      await this.page.evaluate((y) => scrollBy(0, y), by);
    }
  }

  async press(at: Locator, what: string) {
    await this.reach(at, what);
    this.presses++;
    this.steps.push(what);
    if (this.thumb) await at.tap();
    else await at.click();
  }

  /** Typing: one press into the field, unless the cursor is there already. */
  async write(at: Locator, text: string, what: string) {
    if (!(await at.evaluate((e) => e === document.activeElement))) await this.press(at, what);
    await at.fill(text);
  }

  /** At the table a form is sent off by Enter; the thumb looks for its button. */
  async send(at: Locator, what: string) {
    if (this.thumb) return this.press(at, what);
    this.steps.push(`${what} by Enter`);
    await this.page.keyboard.press("Enter");
  }

  /** One of a list that opens: a press on the field and one on the choice. */
  async choose(at: Locator, option: string, what: string) {
    await this.press(at, what);
    this.presses++;
    this.steps.push(option);
    await at.selectOption(option);
  }

  says() {
    return `${this.longest.glasses.toFixed(2)} phone heights in ${this.longest.at}`;
  }

  /** How long the screen is once it stands still, before anything folded is opened. */
  async measure(at: string) {
    for (let was = -1, now = 0; was !== now; ) {
      was = now;
      await this.page.waitForTimeout(600);
      await expect(this.page.getByRole("progressbar")).toHaveCount(0);
      now = await this.page.evaluate(() => document.documentElement.scrollHeight);
    }
    const glasses = await this.page.evaluate(() => document.documentElement.scrollHeight / 844);
    if (glasses > this.longest.glasses) this.longest = { glasses, at };
    this.steps.push(`-- ${at}: ${glasses.toFixed(2)} glasses`);
  }
}
