// Lines of lettering on the table: a frame for each, dragged or moved by keys.

import { setAndPost } from './fields.js';

const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

export class Letters {
  constructor(table) {
    this.table = table;
    this.place = table.stage.querySelector('#letters');
    this.shift = null; // {index, x, y} in mm, not posted yet
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
    if (!this.shift?.busy) this.shift = null;
    this.arrange();
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
      const moved = this.shift?.index === i ? this.shift : { x: 0, y: 0 };
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
    this.shift = { index, x: 0, y: 0, busy: true };
    frame.onpointermove = (now) => {
      const at = this.table.at(now);
      const { scale } = this.table.view;
      Object.assign(this.shift, { x: (at.x - start.x) / scale, y: (start.y - at.y) / scale });
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
    if (this.shift?.index !== index) this.shift = { index, x: 0, y: 0 };
    this.shift.busy = true;
    this.shift.x += step[0] * mm;
    this.shift.y += step[1] * mm;
    this.arrange();
    clearTimeout(this.resting);
    this.resting = setTimeout(() => this.post(), 400);
  }

  post() {
    const { index, x, y } = this.shift;
    this.shift.busy = false;
    if (Math.abs(x) < 0.005 && Math.abs(y) < 0.005) return;
    const line = this.lines[index];
    const mm = (value) => `${Math.round(value * 100) / 100} mm`;
    setAndPost({ [`line${index}_x`]: mm(line.x + x), [`line${index}_y`]: mm(line.y + y) });
  }
}
