// The loupe: true dots at eight pixels a dot, wherever its ring lies.

const BLOCK = 192; // dots fetched at a time, each way
const PER_DOT = 8;

export class Loupe {
  constructor(stage) {
    this.figure = stage.querySelector('#lens');
    this.canvas = this.figure.querySelector('canvas');
    this.ring = stage.querySelector('#aim');
    this.leader = stage.querySelector('#leader');
    this.words = stage.querySelector('#lens-words');
    this.bar = this.figure.querySelector('.lens__bar i');
    this.on = true;
    this.at = null; // in dots
    this.block = null;
    this.asked = '';
    [this.perX, this.perY] = [PER_DOT, PER_DOT];
  }

  place(piece) {
    if (!this.at) this.at = { x: piece.cols * 0.52, y: piece.rows * 0.45 };
    // On a finer or coarser grid it stays over the same spot of the piece.
    else if (this.grid && (this.grid.cols !== piece.cols || this.grid.rows !== piece.rows)) {
      this.at.x *= piece.cols / this.grid.cols;
      this.at.y *= piece.rows / this.grid.rows;
    }
    this.grid = { cols: piece.cols, rows: piece.rows };
    this.at.x = Math.min(Math.max(this.at.x, 0), piece.cols);
    this.at.y = Math.min(Math.max(this.at.y, 0), piece.rows);
  }

  forget() {
    this.asked = '';
  }

  async show(base, key, piece) {
    const { unit } = document.querySelector('#pictures').dataset;
    const mm = unit === 'in' ? 25.4 : 1;
    const length = (value) => `${(value / mm).toFixed(unit === 'in' ? 5 : 3)} ${unit}`;
    const dots = piece.along === piece.pitch ? length(piece.pitch)
      : `${(piece.along / mm).toFixed(3)} × ${length(piece.pitch)}`;
    this.words.textContent = `dots ${dots}, spot ${length(piece.spot)}`;
    // The longer side of a dot fills its pixels; the other is drawn in proportion.
    const longer = Math.max(piece.along, piece.pitch);
    this.perX = PER_DOT * piece.along / longer;
    this.perY = PER_DOT * piece.pitch / longer;
    const bar = mm / longer * PER_DOT;
    const shown = [5, 1, 0.1, 0.05, 0.01, 0.002].find((step) => bar * step <= 150) ?? 0.001;
    this.bar.style.width = `${bar * shown}px`;
    this.bar.nextElementSibling.textContent = `${shown} ${unit}`;
    const left = Math.round(this.at.x - BLOCK / 2);
    const top = Math.round(this.at.y - BLOCK / 2);
    const reach = (per) => this.canvas.width / per / 2 + 2;
    const near = this.block && this.block.key === key &&
      Math.abs(this.at.x - this.block.left - BLOCK / 2) < BLOCK / 2 - reach(this.perX) &&
      Math.abs(this.at.y - this.block.top - BLOCK / 2) < BLOCK / 2 - reach(this.perY);
    if (!near) await this.fetch(base, key, left, top, piece.take);
    this.draw();
  }

  async fetch(base, key, left, top, take) {
    const wanted = new URLSearchParams({ left, top, cols: BLOCK, rows: BLOCK, w: BLOCK, h: BLOCK });
    if (take) wanted.set('take', take);
    const address = `${base}picture/dots/${key}/?${wanted}`;
    if (address === this.asked) return;
    this.asked = address;
    try {
      const answer = await fetch(address);
      if (!answer.ok) throw new Error(String(answer.status));
      const bitmap = await createImageBitmap(await answer.blob());
      if (address === this.asked) this.block = { bitmap, left, top, key };
    } catch {
      // What failed is asked for again at the next look.
      if (address === this.asked) this.asked = '';
    }
  }

  draw() {
    const context = this.canvas.getContext('2d');
    const { width, height } = this.canvas;
    context.fillStyle = '#26282a';
    context.fillRect(0, 0, width, height);
    if (!this.block) return;
    context.imageSmoothingEnabled = false;
    const { bitmap, left, top } = this.block;
    const x = width / 2 - (this.at.x - left) * this.perX;
    const y = height / 2 - (this.at.y - top) * this.perY;
    context.drawImage(bitmap, x, y, BLOCK * this.perX, BLOCK * this.perY);
  }

  // Ring, lens and the two lines between them.
  arrange(art, visible) {
    // So near, the table itself shows the dots as large as the lens would.
    const show = this.on && visible && Math.max(art.dotX, art.dotY) < PER_DOT;
    this.figure.hidden = !show;
    this.ring.hidden = !show;
    this.leader.style.display = show ? '' : 'none';
    if (!show) return null;
    const x = art.left + this.at.x * art.dotX;
    const y = art.top + this.at.y * art.dotY;
    const radius = Math.max((this.canvas.clientWidth / 2 / this.perX) * art.dotX, 7);
    this.ring.style.transform = `translate(${x}px, ${y}px)`;
    this.ring.style.setProperty('--ring', `${2 * radius}px`);
    this.lines(x, y, radius);
    return { x, y };
  }

  lines(x, y, radius) {
    const box = this.leader.getBoundingClientRect();
    const lens = this.canvas.getBoundingClientRect();
    const end = { x: lens.left + lens.width / 2 - box.left, y: lens.top + lens.height / 2 - box.top, r: lens.width / 2 };
    const distance = Math.hypot(end.x - x, end.y - y);
    if (distance <= Math.abs(end.r - radius)) {
      this.leader.firstElementChild.setAttribute('d', '');
      return;
    }
    const along = Math.atan2(end.y - y, end.x - x);
    const turn = Math.acos((radius - end.r) / distance);
    const point = (cx, cy, r, angle) => `${(cx + r * Math.cos(angle)).toFixed(1)} ${(cy + r * Math.sin(angle)).toFixed(1)}`;
    const tangent = (angle) => `M${point(x, y, radius, angle)}L${point(end.x, end.y, end.r, angle)}`;
    this.leader.firstElementChild.setAttribute('d', tangent(along + turn) + tangent(along - turn));
  }
}
