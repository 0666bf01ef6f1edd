// Drawing on the table: a canvas over the piece takes pointer and keys while a
// tool is in hand. What is drawn shows at once and stays until the computed
// picture has it.

import { afterRest, oncePerFrame } from './frames.js';
import { TOOLS } from './tools.js';
import { setting } from './settings.js';

const SLOW_MS = 400;
const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const LEAST = 4; // pixels; a shorter drag was a slip

export class Drawing {
  constructor(table) {
    this.table = table;
    this.stage = table.stage;
    this.canvas = this.stage.querySelector('#drawing');
    this.busy = this.stage.querySelector('#busy');
    this.tool = '';
    this.points = [];
    this.left = []; // what was drawn and is not in the picture yet
    this.cursor = null;
    this.down = false;
    this.paint = oncePerFrame(() => this.draw());
    this.listen();
  }

  get kind() {
    return TOOLS[this.tool];
  }

  take(name) {
    this.tool = this.tool === name ? '' : name;
    this.points = [];
    this.down = false;
    this.canvas.hidden = !this.tool;
    this.stage.classList.toggle('is-drawing', Boolean(this.tool));
    this.mark();
    if (this.tool) {
      this.resize();
      this.canvas.focus({ preventScroll: true });
      // On a phone the table lies below the ticket.
      if (!this.inSight()) this.stage.scrollIntoView({ block: 'center' });
    }
    this.table.showVeil();
    this.paint();
  }

  // Which button is in, and which hints and settings belong to it.
  mark() {
    const has = this.tool === 'nudge' ? '[data-nudge]' : `[data-draw="${this.tool}"]`;
    if (this.tool && !document.querySelector(has)?.offsetParent) {
      this.tool = '';
      this.canvas.hidden = true;
      this.stage.classList.remove('is-drawing');
    }
    document.querySelectorAll('[data-draw], [data-nudge]').forEach((button) => {
      const own = button.dataset.draw ?? 'nudge';
      button.setAttribute('aria-pressed', String(own === this.tool));
    });
    document.querySelectorAll('[data-hint]').forEach((hint) => {
      hint.hidden = hint.dataset.hint !== this.tool;
    });
    document.querySelectorAll('[data-for-tools]').forEach((set) => {
      set.hidden = !set.dataset.forTools.split(' ').includes(this.tool);
    });
  }

  inSight() {
    const box = this.stage.getBoundingClientRect();
    return box.top >= 0 && box.bottom <= window.innerHeight + 1;
  }

  resize() {
    const ratio = window.devicePixelRatio || 1;
    this.canvas.width = Math.round(this.stage.clientWidth * ratio);
    this.canvas.height = Math.round(this.stage.clientHeight * ratio);
    this.cursor ??= { x: this.stage.clientWidth / 2, y: this.stage.clientHeight / 2 };
    this.paint();
  }

  // Pointer and keys

  listen() {
    const { canvas } = this;
    canvas.addEventListener('pointerdown', (event) => {
      if (event.button) return;
      canvas.setPointerCapture(event.pointerId);
      this.keyed = false;
      this.begin(this.table.at(event));
    });
    canvas.addEventListener('pointermove', (event) => {
      this.cursor = this.table.at(event);
      const all = event.getCoalescedEvents?.() ?? [event];
      if (this.down) (all.length ? all : [event]).forEach((one) => this.reach(this.table.at(one)));
      this.paint();
    });
    canvas.addEventListener('pointerup', () => this.lift());
    canvas.addEventListener('pointercancel', () => this.drop());
    canvas.addEventListener('dblclick', () => this.close());
    canvas.addEventListener('keydown', (event) => this.key(event));
    document.addEventListener('click', (event) => {
      const button = event.target.closest?.('[data-draw], [data-nudge]');
      if (button) this.take(button.dataset.draw ?? 'nudge');
      if (event.target.closest?.('[data-whole]')) this.whole();
    });
    document.addEventListener('htmx:afterSwap', (event) => {
      if (event.target.id !== 'stations') return;
      const drawing = document.activeElement === document.body && this.tool;
      this.mark();
      if (drawing && this.tool) this.canvas.focus({ preventScroll: true });
    });
    this.stage.addEventListener('drawn', () => this.settle());
    document.addEventListener('ember:fold', () => this.mark());
    document.addEventListener('ember:setting', () => this.paint());
    document.addEventListener('ember:moved', () => this.paint());
    new ResizeObserver(() => this.tool && this.resize()).observe(this.stage);
  }

  begin(at) {
    this.cursor = at;
    if (this.kind.way === 'polygon' && this.points.length) {
      this.down = true;
      this.points.push(at);
      return;
    }
    this.points = [at];
    this.down = true;
    if (this.kind.way === 'point') this.done();
  }

  reach(at) {
    this.cursor = at;
    const { way } = this.kind;
    if (way === 'stroke' || way === 'polygon') this.points.push(at);
    else this.points = [this.points[0], at];
  }

  lift() {
    if (!this.down) return;
    this.down = false;
    const { way } = this.kind;
    if (way === 'polygon') return this.paint();
    const [first, last] = [this.points[0], this.points[this.points.length - 1]];
    const far = Math.hypot(last.x - first.x, last.y - first.y);
    if (way !== 'stroke' && far < LEAST) return this.drop();
    this.done();
  }

  close() {
    if (this.kind?.way === 'polygon' && this.points.length > 2) this.done();
  }

  drop() {
    this.down = false;
    this.points = [];
    this.paint();
  }

  done() {
    const { points } = this;
    this.down = false;
    this.points = [];
    if (this.kind.post(points, this.table) === false) return this.paint();
    this.left.push({ tool: this.tool, points });
    if (this.kind.slow) this.waiting = setTimeout(() => { this.busy.hidden = false; }, SLOW_MS);
    this.paint();
  }

  // Nearly the whole picture, for a cut-out without a pointer.
  whole() {
    const art = this.table.view.art(this.table.piece);
    const [w, h] = [art.width, art.height];
    this.points = [
      { x: art.left + 0.02 * w, y: art.top + 0.02 * h },
      { x: art.left + 0.98 * w, y: art.top + 0.98 * h },
    ];
    this.done();
  }

  // The picture has it now.
  settle() {
    clearTimeout(this.waiting);
    this.busy.hidden = true;
    this.left = [];
    this.paint();
  }

  key(event) {
    if (event.key === 'Escape') {
      event.stopPropagation();
      if (this.points.length) this.drop();
      else this.take(this.tool);
      return;
    }
    if (this.tool === 'nudge') return this.keyNudge(event);
    const step = STEP[event.key];
    if (step) {
      event.preventDefault();
      event.stopPropagation();
      const far = event.shiftKey ? 20 : event.altKey ? 1 : 4;
      const to = { x: this.cursor.x + step[0] * far, y: this.cursor.y + step[1] * far };
      this.cursor = to;
      if (this.down) this.reach(to);
      this.paint();
    } else if (event.key === ' ') {
      event.preventDefault();
      if (this.down) this.lift();
      else this.begin({ ...this.cursor });
      this.paint();
    } else if (event.key === 'Enter') {
      event.preventDefault();
      if (this.kind.way === 'polygon') this.close();
      else if (this.down) this.lift();
      else if (this.kind.way === 'point') this.begin({ ...this.cursor });
    }
  }

  // One mm a press, a tenth with Alt, ten with Shift; posted when the hand rests.
  keyNudge(event) {
    const step = STEP[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    const mm = event.altKey ? 0.1 : event.shiftKey ? 10 : 1;
    const far = mm * this.table.view.scale;
    const from = this.points[0] ?? { x: 0, y: 0 };
    const to = this.points[1] ?? from;
    this.points = [from, { x: to.x + step[0] * far, y: to.y + step[1] * far }];
    this.paint();
    clearTimeout(this.resting);
    this.resting = afterRest(() => this.tool === 'nudge' && this.points.length && this.done(), 450);
  }

  // Drawing

  draw() {
    if (this.canvas.hidden) return;
    const ratio = window.devicePixelRatio || 1;
    const context = this.canvas.getContext('2d');
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, this.canvas.width, this.canvas.height);
    this.left.forEach((one) => this.trace(context, TOOLS[one.tool], one.points));
    if (this.points.length) this.trace(context, this.kind, this.points);
    this.drawCursor(context);
  }

  trace(context, kind, points) {
    context.lineCap = context.lineJoin = 'round';
    const path = () => {
      context.beginPath();
      points.forEach((at, i) => (i ? context.lineTo(at.x, at.y) : context.moveTo(at.x, at.y)));
    };
    if (kind.way === 'stroke') {
      path();
      if (points.length === 1) context.lineTo(points[0].x + 0.01, points[0].y);
      context.strokeStyle = kind.colour();
      context.lineWidth = this.brush(kind);
      context.stroke();
      return;
    }
    const [a, b] = [points[0], points[points.length - 1]];
    if (kind.way === 'box') {
      context.beginPath();
      context.rect(Math.min(a.x, b.x), Math.min(a.y, b.y), Math.abs(b.x - a.x), Math.abs(b.y - a.y));
    } else if (kind.way === 'move') this.moved(context, a, b);
    else path();
    if (kind.way === 'polygon') {
      context.fillStyle = 'rgba(165,191,212,.3)';
      context.fill();
    }
    this.line(context);
  }

  moved(context, a, b) {
    const { piece, view } = this.table;
    const art = view.art(piece);
    context.beginPath();
    context.rect(art.left + b.x - a.x, art.top + b.y - a.y, art.width, art.height);
  }

  line(context) {
    context.setLineDash([]);
    context.lineWidth = 3.5;
    context.strokeStyle = 'rgba(20,16,12,.75)';
    context.stroke();
    context.lineWidth = 1.75;
    context.strokeStyle = '#ff8450';
    context.stroke();
  }

  brush(kind) {
    return Math.max(setting(kind.size) * this.table.view.scale, 1);
  }

  drawCursor(context) {
    if (!this.cursor || !this.tool || this.tool === 'nudge') return;
    const { x, y } = this.cursor;
    context.beginPath();
    if (this.kind.way === 'stroke') context.arc(x, y, this.brush(this.kind) / 2, 0, 2 * Math.PI);
    else {
      context.moveTo(x - 9, y);
      context.lineTo(x + 9, y);
      context.moveTo(x, y - 9);
      context.lineTo(x, y + 9);
    }
    this.line(context);
  }
}
