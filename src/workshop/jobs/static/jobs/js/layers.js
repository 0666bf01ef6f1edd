// Pictures of the views, fetched for what is in sight, drawn where they belong.

const AGAIN_MS = 1500;

const alike = (one, other) => JSON.stringify(one) === JSON.stringify(other);

export class Layer {
  // `mark` tells the server that this is the picture the eye is on.
  constructor(changed, mark = {}) {
    this.changed = changed;
    this.mark = mark;
    this.view = '';
    this.shown = null; // {bitmap, window, key, view}
    this.asked = '';
    this.turn = 0;
  }

  // Fetch the window of a view unless it is there or on its way.
  // Of a large job a quick look comes first, and says so until the exact one is there.
  async fetch(base, view, key, window, large = false) {
    if (large && this.shown?.key !== key) this.quick(base, view, key, window);
    const address = `${base}picture/${view}/${key}/?${new URLSearchParams({ ...window, ...this.mark })}`;
    this.view = view;
    if (address === this.asked) return;
    this.asked = address;
    if (this.shown?.key === key && this.shown.view === view && alike(this.shown.window, window)) {
      this.changed(); // it was looked at before it was written
      return;
    }
    const turn = ++this.turn;
    try {
      const answer = await fetch(address);
      if (!answer.ok) throw new Error(String(answer.status));
      const bitmap = await createImageBitmap(await answer.blob());
      if (turn < (this.shown?.turn ?? 0)) return;
      this.shown = { bitmap, window, key, view, turn };
      this.changed();
    } catch (fault) {
      if (turn !== this.turn) return;
      this.asked = '';
      // The program was away for a moment: the picture comes when it is back.
      if (fault instanceof TypeError) {
        setTimeout(() => turn === this.turn && !this.asked && this.fetch(base, view, key, window, large), AGAIN_MS);
      }
    }
  }

  async quick(base, view, key, window) {
    const address = `${base}picture/${view}/${key}/?${new URLSearchParams({ ...window, quick: 1 })}`;
    if (address === this.glanced) return;
    this.glanced = address;
    const turn = this.turn + 1;
    try {
      const answer = await fetch(address);
      if (!answer.ok) throw new Error(String(answer.status));
      const bitmap = await createImageBitmap(await answer.blob());
      if (this.turn > turn || this.shown?.key === key) return;
      this.shown = { bitmap, window, key: '', view, turn: turn - 1, quick: true };
      this.changed();
    } catch {
      this.glanced = '';
    }
  }

  // Show a picture that came before the page knew its key.
  take(view, key, window, bitmap) {
    this.shown = { bitmap, window, key, view, turn: ++this.turn };
    this.asked = '';
    this.changed();
  }

  forget() {
    this.asked = '';
    this.shown = null;
  }

  draw(context, art) {
    if (!this.shown) return;
    const { bitmap, window, view } = this.shown;
    const near = view === 'dots' && Math.min(art.dotX, art.dotY) > 1;
    context.imageSmoothingEnabled = !near;
    context.imageSmoothingQuality = 'high';
    context.drawImage(
      bitmap,
      art.left + window.left * art.dotX,
      art.top + window.top * art.dotY,
      window.cols * art.dotX,
      window.rows * art.dotY,
    );
  }
}
