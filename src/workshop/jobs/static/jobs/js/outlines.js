// Outlines on the table: chosen by a press or in a box, moved and scaled by their frame;
// offset, lead-in and bridges by handles.

import * as ledger from '../../shell/js/ledger.js';
import { say, typing } from '../../shell/js/page.js';
import { postLive } from './fields.js';
import { afterRest } from './frames.js';
import { act } from './line.js';

const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const SLIP_PX = 4; // a shorter drag was a press
const REST_MS = 400;
const numbers = (text) => text.split(' ').map(Number);
const rounded = (value, to = 100) => Math.round(value * to) / to;
const $ = (selector) => document.querySelector(selector);
const form = () => $('#station-form');

// What each handle sets: from where it is drawn to, in mm, as a value of its field.
const HANDLES = {
  offset_mm: {
    unit: 'mm', least: -100, most: 200, step: 0.1,
    drawn: (handle, x) => Number(handle.dataset.value) + x - Number(handle.dataset.x),
  },
  lead_in_mm: {
    unit: 'mm', least: 0, most: 20, step: 0.1,
    drawn: (handle, x, y) => {
      const [fromX, fromY] = numbers(handle.dataset.from);
      return Math.hypot(x - fromX, y - fromY);
    },
  },
  bridge_shift: {
    unit: '%', least: -50, most: 50, step: 1,
    drawn: (handle, x, y) => {
      const [alongX, alongY] = numbers(handle.dataset.along);
      const way = (x - handle.dataset.x) * alongX + (y - handle.dataset.y) * alongY;
      const share = Number(handle.dataset.value) + way / Number(handle.dataset.apart);
      return 100 * (share - Math.round(share));
    },
  },
};

export class Outlines {
  constructor(table) {
    this.table = table;
    this.chosen = new Set(); // points that mean rings
    this.boxing = false;
    this.held = null; // what the pointer has: a ring, the frame, a handle or a box
    this.listen();
    this.update();
  }

  get svg() {
    return $('#outlines');
  }

  get shown() {
    return Boolean(this.svg && !this.svg.hasAttribute('hidden'));
  }

  get rings() {
    return [...this.svg.querySelectorAll('.ring')];
  }

  // Whether all that is used is chosen: then the operation is moved as it is.
  get all() {
    return this.rings.every((ring) => this.chosen.has(ring.dataset.point) || ring.classList.contains('is-out'));
  }

  // What a drag on a ring moves: the table, the chosen ones, or the whole operation.
  taken(ring, shift) {
    if (shift || !this.chosen.has(ring.dataset.point)) return 'ring';
    return this.all ? 'frame' : 'some';
  }

  listen() {
    const { stage } = this.table;
    document.addEventListener('ember:moved', () => this.arrange());
    document.addEventListener('htmx:afterSettle', () => this.update());
    document.addEventListener('htmx:oobAfterSwap', () => this.update());
    // Before the table takes it for panning.
    stage.addEventListener('pointerdown', (event) => this.shown && this.down(event), true);
    stage.addEventListener('pointermove', (event) => this.held && this.move(event), true);
    for (const end of ['pointerup', 'pointercancel']) stage.addEventListener(end, (event) => this.held && this.up(event), true);
    document.addEventListener('keydown', (event) => this.shown && this.key(event), true);
    document.addEventListener('click', (event) => {
      const button = event.target.closest?.('[data-rings]');
      if (button) this.press(button.dataset.rings);
    });
  }

  // Chosen rings stay chosen over an answer while they are there.
  update() {
    if (!this.shown) {
      this.chosen.clear();
      this.boxing = false;
      return;
    }
    const at = this.svg.dataset.at;
    if (at !== this.at) this.chosen.clear();
    this.at = at;
    const there = new Set(this.rings.map((ring) => ring.dataset.point));
    for (const point of this.chosen) if (!there.has(point)) this.chosen.delete(point);
    this.mark();
    this.arrange();
  }

  mark() {
    let out = 0;
    for (const ring of this.rings) {
      const chosen = this.chosen.has(ring.dataset.point);
      ring.setAttribute('aria-checked', String(chosen));
      ring.classList.toggle('is-chosen', chosen);
      out += chosen && ring.classList.contains('is-out');
    }
    const { size } = this.chosen;
    const says = $('#chosen-says');
    if (!says) return;
    says.textContent = size ? `${size} chosen${out ? `, ${out} of them left out` : ''}. Drag one to move what is chosen, the frame to move all, a corner to scale.`
      : 'Press an outline on the table to choose it, with Shift several.';
    for (const button of document.querySelectorAll('[data-rings]')) {
      const { rings } = button.dataset;
      if (rings === 'box') button.setAttribute('aria-pressed', String(this.boxing));
      else if (rings === 'out') button.disabled = out === size;
      else if (rings === 'use') button.disabled = !out;
      else if (rings === 'split') button.disabled = !size;
    }
    this.svg.classList.toggle('is-boxing', this.boxing);
  }

  // Millimetres of the piece to pixels of the screen.
  arrange() {
    if (!this.shown) return;
    const { piece, view } = this.table;
    const art = view.art(piece);
    const lie = $('#ol-lie');
    const [x, y] = [art.left + art.width / 2, art.top + art.height / 2];
    this.middle = { x, y, scale: view.scale };
    lie.setAttribute('transform', `translate(${x} ${y}) scale(${view.scale})`);
    for (const handle of lie.querySelectorAll('[data-handle]')) this.lay(handle, handle.dataset.x, handle.dataset.y);
    if (this.held?.at) this.lay(document.getElementById(this.held.id), this.held.at.x, this.held.at.y);
  }

  lay(handle, x, y) {
    handle?.setAttribute('transform', `translate(${x} ${y}) scale(${1 / this.middle.scale})`);
  }

  mm(event) {
    const at = this.table.at(event);
    const { x, y, scale } = this.middle;
    return { x: (at.x - x) / scale, y: (at.y - y) / scale };
  }

  // Pointer

  down(event) {
    if (event.button || this.held) return;
    const { target } = event;
    const handle = target.closest('[data-handle]');
    const ring = target.closest('.ring');
    const start = this.mm(event);
    const own = { start, from: this.table.at(event), id: event.pointerId, shift: event.shiftKey || event.ctrlKey || event.metaKey };
    if (this.boxing || (event.shiftKey && target === this.table.canvas)) this.held = { ...own, what: 'box' };
    else if (handle) this.held = { ...own, what: handle.dataset.handle, id: handle.id, handle };
    else if (target.closest('#ol-frame')) this.held = { ...own, what: 'frame' };
    else if (target.dataset.look) this.held = { ...own, what: 'ring', look: target.dataset.look };
    else if (ring) this.held = { ...own, what: this.taken(ring, own.shift), ring };
    else return;
    event.stopPropagation();
    event.preventDefault();
    (handle ?? ring ?? target.closest('#ol-frame'))?.focus?.({ preventScroll: true });
    this.table.stage.setPointerCapture(event.pointerId);
  }

  move(event) {
    const { held } = this;
    const at = this.table.at(event);
    event.stopPropagation();
    held.far ||= Math.hypot(at.x - held.from.x, at.y - held.from.y) > SLIP_PX;
    if (!held.far) return;
    const here = this.mm(event);
    const by = { x: here.x - held.start.x, y: here.y - held.start.y };
    if (held.what === 'box') this.drawBox(held.from, at);
    else if (held.what === 'ring') this.pan(held, at);
    else if (held.what === 'some') this.previewSome(by, at);
    else if (held.what === 'frame') this.preview(`translate(${by.x} ${by.y})`, `${rounded(by.x)}, ${rounded(-by.y)} mm`, at);
    else if (held.what === 'scale') this.previewScale(held, here, at);
    else this.draw(held, here, at);
  }

  pan(held, at) {
    const last = held.last ?? held.from;
    held.last = at;
    this.table.view.pan(at.x - last.x, at.y - last.y);
    this.table.moved();
  }

  // Until the answer comes the page shows what was asked for.
  preview(transform, words, at) {
    document.getElementById(`ol-${this.at}`)?.setAttribute('transform', transform);
    $('#ol-rings')?.setAttribute('transform', transform);
    $('#ol-frame')?.setAttribute('transform', transform);
    this.saySo(words, at);
  }

  previewSome(by, at) {
    for (const ring of this.rings) {
      if (this.chosen.has(ring.dataset.point)) ring.setAttribute('transform', `translate(${by.x} ${by.y})`);
    }
    this.saySo(`${rounded(by.x)}, ${rounded(-by.y)} mm, ${this.chosen.size} by themselves`, at);
  }

  saySo(words, at) {
    const text = $('#ol-said');
    if (!text) return;
    text.textContent = words;
    if (at) {
      text.setAttribute('x', at.x + 14);
      text.setAttribute('y', at.y - 12);
    }
  }

  // The operation's shapes are scaled about the middle they are moved from.
  factors(held, here) {
    const [moveX, moveY] = numbers(this.svg.dataset.move);
    const [x, y] = [moveX, -moveY];
    const away = (point) => [point.x - x, point.y - y];
    const [ax, ay] = away(held.start);
    const [bx, by] = away(here);
    if ($('#op-lock_scale')?.checked ?? true) {
      const both = Math.hypot(bx, by) / Math.max(Math.hypot(ax, ay), 1e-6);
      return { x, y, across: both, along: both };
    }
    const part = (b, a) => (Math.abs(a) < 0.5 ? 1 : Math.max(b / a, 0.01));
    return { x, y, across: part(bx, ax), along: part(by, ay) };
  }

  previewScale(held, here, at) {
    const { x, y, across, along } = this.factors(held, here);
    const [wide, high] = numbers(this.svg.dataset.scale);
    held.scale = [Math.min(Math.max(wide * across, 0.1), 1e4), Math.min(Math.max(high * along, 0.1), 1e4)];
    const words = held.scale.map((one) => `${rounded(one, 10)} %`).join(' × ');
    this.preview(`translate(${x} ${y}) scale(${across} ${along}) translate(${-x} ${-y})`, words, at);
  }

  // A handle's value goes to its field, and the picture follows.
  draw(held, here, at) {
    const kind = HANDLES[held.what];
    held.at = here;
    this.lay(document.getElementById(held.id), here.x, here.y);
    this.put(held.what, kind.drawn(held.handle, here.x, here.y));
    this.saySo(`${rounded(kind.drawn(held.handle, here.x, here.y))} ${kind.unit}`, at);
    postLive();
  }

  put(name, value) {
    const kind = HANDLES[name];
    const within = Math.min(Math.max(value, kind.least), kind.most);
    const plain = kind.unit === '%' || $('#pictures').dataset.unit !== 'in';
    ledger.put(form(), name, plain ? String(rounded(within)) : `${rounded(within)} mm`);
  }

  up(event) {
    const { held } = this;
    this.held = null;
    event.stopPropagation();
    this.saySo('');
    if (event.type === 'pointercancel') return this.update();
    const here = this.mm(event);
    if (held.what === 'box') return this.chooseInBox(held, event);
    if (!held.far) {
      if (held.ring) this.choose(held.ring.dataset.point, held.shift);
      else if (held.look) document.getElementById(`look-${held.look}`)?.click();
      return undefined;
    }
    if (held.what === 'some') return this.ask('split', { x: rounded(here.x - held.start.x), y: rounded(held.start.y - here.y) });
    if (held.what === 'frame') return this.moveBy(here.x - held.start.x, here.y - held.start.y);
    if (held.what === 'scale' && held.scale) return this.scaleTo(held.scale);
    this.arrange();
    return undefined;
  }

  // Choosing

  choose(point, add) {
    const had = this.chosen.has(point);
    if (!add) this.chosen.clear();
    if (had) this.chosen.delete(point);
    else this.chosen.add(point);
    this.mark();
  }

  drawBox(from, to) {
    const box = $('#ol-box');
    box.removeAttribute('hidden');
    box.setAttribute('x', Math.min(from.x, to.x));
    box.setAttribute('y', Math.min(from.y, to.y));
    box.setAttribute('width', Math.abs(from.x - to.x));
    box.setAttribute('height', Math.abs(from.y - to.y));
  }

  chooseInBox(held, event) {
    const box = $('#ol-box');
    box.setAttribute('hidden', '');
    if (!held.far) return;
    const to = this.table.at(event);
    const stage = this.table.stage.getBoundingClientRect();
    const span = (a, b, off) => [Math.min(a, b) + off, Math.max(a, b) + off];
    const [left, right] = span(held.from.x, to.x, stage.left);
    const [top, low] = span(held.from.y, to.y, stage.top);
    if (!held.shift || this.boxing) this.chosen.clear();
    for (const ring of this.rings) {
      const is = ring.getBoundingClientRect();
      if (is.left >= left && is.right <= right && is.top >= top && is.bottom <= low) this.chosen.add(ring.dataset.point);
    }
    this.boxing = false;
    this.mark();
    say(`${this.chosen.size} chosen.`);
  }

  press(what) {
    if (what === 'box') {
      this.boxing = !this.boxing;
      this.mark();
    } else if (what === 'all') {
      const every = this.rings.map((ring) => ring.dataset.point);
      this.chosen = new Set(this.chosen.size === every.length ? [] : every);
      this.mark();
    } else this.ask(what);
  }

  ask(what, by = {}) {
    const place = $('#chosen');
    const points = [...this.chosen].join(';');
    if (!place || !points) return;
    const address = what === 'split' ? place.dataset.split : place.dataset.base;
    window.htmx.ajax('POST', address, {
      source: place, target: '#stations', swap: 'morph', values: { at: this.at, points, use: what === 'use' ? '1' : '', ...by },
    });
  }

  moveBy(x, y) {
    const [moveX, moveY] = numbers(this.svg.dataset.move);
    act(form(), { move_x_mm: `${rounded(moveX + x)} mm`, move_y_mm: `${rounded(moveY - y)} mm` }, { dropped: () => this.undrawn() });
  }

  scaleTo([wide, high]) {
    const locked = $('#op-lock_scale')?.checked ?? true;
    const values = { scale_x: rounded(wide) };
    if (!locked) values.scale_y = rounded(high);
    act(form(), values, { dropped: () => this.undrawn() });
  }

  undrawn() {
    for (const one of [document.getElementById(`ol-${this.at}`), $('#ol-rings'), $('#ol-frame')]) one?.removeAttribute('transform');
  }

  // Keys

  key(event) {
    const { target } = event;
    if (event.ctrlKey && event.key.toLowerCase() === 'a' && target.closest?.('#outlines')) {
      event.preventDefault();
      return this.press('all');
    }
    if (event.ctrlKey || event.metaKey) return undefined;
    if (event.key.toLowerCase() === 'b' && !typing(target) && $('#chosen')) return this.press('box');
    if (!target.closest?.('#outlines')) return this.elsewhere(event);
    if (event.key === 'Escape') {
      if (!this.chosen.size && !this.boxing) return undefined;
      event.stopPropagation();
      this.chosen.clear();
      this.boxing = false;
      return this.mark();
    }
    const before = event.defaultPrevented;
    if (target.matches('.ring')) this.keyRing(event, target);
    else if (target.id === 'ol-frame') this.keyFrame(event);
    else if (target.matches('[data-handle]')) this.keyHandle(event, target);
    if (event.defaultPrevented && !before) event.stopPropagation();
    return undefined;
  }

  // With the keyboard elsewhere on the page, Delete is for what is chosen.
  elsewhere(event) {
    if (typing(event.target) || !this.chosen.size) return;
    if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      this.leaveOut();
    }
  }

  leaveOut() {
    const out = this.rings.filter((ring) => this.chosen.has(ring.dataset.point) && ring.classList.contains('is-out'));
    this.ask(out.length === this.chosen.size ? 'use' : 'out');
  }

  keyRing(event, ring) {
    const { rings } = this;
    const at = rings.indexOf(ring);
    const to = { ArrowRight: at + 1, ArrowDown: at + 1, ArrowLeft: at - 1, ArrowUp: at - 1, Home: 0, End: rings.length - 1 }[event.key];
    if (to !== undefined) {
      event.preventDefault();
      const next = rings[Math.min(Math.max(to, 0), rings.length - 1)];
      ring.setAttribute('tabindex', '-1');
      next.setAttribute('tabindex', '0');
      next.focus({ preventScroll: true });
    } else if (event.key === ' ' || event.key === 'Enter') {
      event.preventDefault();
      this.choose(ring.dataset.point, true);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      if (!this.chosen.size) this.chosen.add(ring.dataset.point);
      this.leaveOut();
    }
  }

  keyFrame(event) {
    const step = STEP[event.key];
    if (!step) return;
    event.preventDefault();
    const mm = event.altKey ? 0.1 : event.shiftKey ? 10 : 1;
    this.walked = { x: (this.walked?.x ?? 0) + step[0] * mm, y: (this.walked?.y ?? 0) + step[1] * mm };
    this.preview(`translate(${this.walked.x} ${this.walked.y})`, '');
    clearTimeout(this.resting);
    this.resting = afterRest(() => {
      const { x, y } = this.walked;
      this.walked = null;
      this.moveBy(x, y);
    }, REST_MS);
  }

  keyHandle(event, handle) {
    const step = STEP[event.key];
    if (!step) return;
    event.preventDefault();
    const way = step[0] - step[1];
    const times = event.shiftKey ? 10 : 1;
    const name = handle.dataset.handle;
    if (name === 'scale') {
      const by = 1 + (way * times) / 100;
      this.scaleTo(numbers(this.svg.dataset.scale).map((one) => one * by));
      return;
    }
    const kind = HANDLES[name];
    const percent = name === 'bridge_shift' ? 100 : 1;
    const now = ledger.holds(form().elements[name]) ? parseFloat(form().elements[name].value) : percent * Number(handle.dataset.value);
    this.put(name, now + way * times * kind.step);
    postLive();
  }
}
