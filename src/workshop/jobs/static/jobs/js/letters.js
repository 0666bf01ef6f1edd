// Lines of lettering on the table: a frame for each, dragged or moved by keys.

import { holds } from '../../shell/js/ledger.js';
import { setAndPost } from './fields.js';
import { afterRest } from './frames.js';

const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

export class Letters {
  constructor(table) {
    this.table = table;
    this.place = table.stage.querySelector('#letters');
    this.aim = null; // {index, x, y}: where a line is meant to stand, in mm
    document.addEventListener('ember:moved', () => this.arrange());
    document.addEventListener('toggle', () => this.update(), true);
    document.addEventListener('htmx:afterSwap', () => this.update());
    document.addEventListener('htmx:oobAfterSwap', () => this.update());
    this.update();
  }

  get lines() {
    return JSON.parse(document.querySelector('#pictures').dataset.lines || '[]');
  }

  // One frame a line, while the Lettering fold is open.
  update() {
    const open = document.querySelector('[data-fold=letters]')?.open;
    const { lines } = this;
    this.place.hidden = !open || !lines.length;
    while (this.place.children.length > lines.length) this.place.lastChild.remove();
    while (this.place.children.length < lines.length) this.add(this.place.children.length);
    if (this.aim && !this.aim.busy && !this.underWay) this.aim = null;
    this.arrange();
  }

  // Whether the newest place is not the job's yet.
  get underWay() {
    const field = document.querySelector(`#f-line${this.aim.index}_x`);
    return Boolean(field && holds(field));
  }

  standing(index) {
    return this.aim?.index === index ? this.aim : this.lines[index];
  }

  add(index) {
    const frame = document.createElement('button');
    frame.type = 'button';
    frame.className = 'letterframe';
    frame.addEventListener('pointerdown', (event) => this.begin(event, frame, index));
    frame.addEventListener('keydown', (event) => this.key(event, index));
    this.place.append(frame);
  }

  arrange() {
    if (this.place.hidden) return;
    const { piece, view } = this.table;
    const art = view.art(piece);
    const { scale } = view;
    const [mx, my] = [art.left + art.width / 2, art.top + art.height / 2];
    this.lines.forEach((line, i) => {
      const frame = this.place.children[i];
      const at = this.standing(i);
      const moved = { x: at.x - line.x, y: at.y - line.y };
      const [left, low, right, high] = line.box;
      const [w, h] = [Math.max((right - left) * scale, 22), Math.max((high - low) * scale, 14)];
      const [x, y] = [mx + (left + moved.x) * scale, my - (high + moved.y) * scale];
      frame.style.width = `${w + 10}px`;
      frame.style.height = `${h + 10}px`;
      frame.style.transform = `translate(${x - 5}px, ${y - 5}px)`;
      frame.setAttribute('aria-label', `Lettering “${line.text}”. Arrow keys move it.`);
    });
  }

  begin(event, frame, index) {
    event.preventDefault();
    frame.focus({ preventScroll: true });
    frame.setPointerCapture(event.pointerId);
    const start = this.table.at(event);
    const from = this.standing(index);
    this.aim = { index, x: from.x, y: from.y, busy: true };
    const [x, y] = [from.x, from.y];
    frame.onpointermove = (now) => {
      const at = this.table.at(now);
      const { scale } = this.table.view;
      Object.assign(this.aim, { x: x + (at.x - start.x) / scale, y: y + (start.y - at.y) / scale });
      this.arrange();
    };
    frame.onpointerup = frame.onpointercancel = () => {
      frame.onpointermove = frame.onpointerup = null;
      this.post();
    };
  }

  key(event, index) {
    const step = STEP[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    const mm = event.altKey ? 0.1 : event.shiftKey ? 10 : 1;
    const from = this.standing(index);
    this.aim = { index, x: from.x + step[0] * mm, y: from.y + step[1] * mm, busy: true };
    this.arrange();
    clearTimeout(this.resting);
    this.resting = afterRest(() => this.post(), 400);
  }

  post() {
    const { index, x, y } = this.aim;
    this.aim.busy = false;
    const line = this.lines[index];
    if (Math.abs(x - line.x) < 0.005 && Math.abs(y - line.y) < 0.005) return;
    const mm = (value) => `${Math.round(value * 100) / 100} mm`;
    setAndPost({ [`line${index}_x`]: mm(x), [`line${index}_y`]: mm(y) });
  }
}
