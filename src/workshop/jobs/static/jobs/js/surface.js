// The finished piece as a surface: where its light comes from, cut along a line, turned.

import { typing } from '../../shell/js/page.js';
import { Turned } from './turned.js';

const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const REST_MS = 120;
const $ = (selector) => document.querySelector(selector);

export class Surface {
  constructor(table) {
    this.table = table;
    this.line = null; // two points, mm from the picture's upper left corner
    this.shown = { turn: false, cut: false };
    this.turned = new Turned($('#turned'), () => this.lamp);
    this.listen();
    this.update();
  }

  get deep() {
    return Boolean($('#pictures').dataset.deep);
  }

  get lamp() {
    return this.table.lamp;
  }

  get key() {
    return $('#pictures').dataset.keyProof;
  }

  listen() {
    document.addEventListener('click', (event) => {
      const button = event.target.closest?.('[data-deep]');
      if (button?.matches('button')) this.toggle(button.dataset.deep);
    });
    document.addEventListener('keydown', (event) => {
      if (!this.deep || typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      const what = { t: 'turn', x: 'cut' }[event.key.toLowerCase()];
      if (what) this.toggle(what);
    });
    document.addEventListener('ember:moved', () => this.arrange());
    document.addEventListener('htmx:oobAfterSwap', (event) => {
      if (event.detail.target?.id === 'pictures' || event.target.id === 'pictures') this.update();
    });
    document.addEventListener('htmx:beforeOnLoad', () => setTimeout(() => this.update()));
    this.listenToSun();
    this.listenToLine();
  }

  toggle(what) {
    this.shown[what] = !this.shown[what];
    if (what === 'cut' && this.shown.cut) this.line ??= this.middle();
    this.update();
    if (what === 'turn' && this.shown.turn) $('#turned canvas').focus({ preventScroll: true });
    if (what === 'cut' && this.shown.cut) $('[data-end="1"]').focus({ preventScroll: true });
  }

  // Across the middle, at first.
  middle() {
    const { artWidth, artHeight } = this.table.piece;
    return [{ x: 0, y: artHeight / 2 }, { x: artWidth, y: artHeight / 2 }];
  }

  update() {
    const { deep } = this;
    for (const button of document.querySelectorAll('button[data-deep]')) {
      const on = deep && this.shown[button.dataset.deep];
      button.hidden = !deep;
      button.classList.toggle('is-on', on);
      button.setAttribute('aria-pressed', String(on));
    }
    const turn = deep && this.shown.turn;
    const cut = deep && this.shown.cut && !turn;
    $('#sunring').hidden = !deep;
    $('#turned').hidden = !turn;
    $('#cutshown').hidden = !cut;
    $('#cutline').toggleAttribute('hidden', !cut);
    this.pointSun();
    if (turn) this.turned.show(this.table.base, this.key);
    else this.turned.rest();
    if (cut) this.ask();
    this.arrange();
  }

  // The light

  pointSun() {
    const ring = $('#sunring');
    ring.style.setProperty('--lamp', `${this.lamp}deg`);
    ring.setAttribute('aria-valuenow', String(this.lamp));
    ring.setAttribute('aria-valuetext', `${this.lamp}° clockwise from the top`);
  }

  light(degrees) {
    const lamp = (Math.round(degrees / 5) * 5 + 360) % 360;
    if (lamp === this.lamp) return;
    this.table.setLamp(lamp);
    this.pointSun();
    this.turned.relight();
  }

  listenToSun() {
    const ring = $('#sunring');
    const point = (event) => {
      const box = ring.getBoundingClientRect();
      const x = event.clientX - box.left - box.width / 2;
      const y = event.clientY - box.top - box.height / 2;
      this.light((Math.atan2(x, -y) * 180) / Math.PI);
    };
    ring.addEventListener('pointerdown', (event) => {
      event.preventDefault();
      ring.focus();
      ring.setPointerCapture(event.pointerId);
      ring.onpointermove = point;
      point(event);
    });
    for (const end of ['pointerup', 'pointercancel']) ring.addEventListener(end, () => { ring.onpointermove = null; });
    ring.addEventListener('keydown', (event) => {
      const step = STEP[event.key];
      if (!step) return;
      event.preventDefault();
      event.stopPropagation();
      this.light(this.lamp + (step[0] - step[1]) * 15);
    });
  }

  // The cut

  arrange() {
    const lines = $('#cutline');
    if (lines.hasAttribute('hidden') || !this.line) return;
    const art = this.table.view.art(this.table.piece);
    const { scale } = this.table.view;
    const at = this.line.map(({ x, y }) => [art.left + x * scale, art.top + y * scale]);
    const data = `M${at[0].join(' ')}L${at[1].join(' ')}`;
    lines.querySelectorAll('path').forEach((path) => path.setAttribute('d', data));
    lines.querySelectorAll('[data-end]').forEach((end, k) => end.setAttribute('transform', `translate(${at[k].join(' ')})`));
  }

  moveEnd(which, x, y) {
    const { artWidth, artHeight } = this.table.piece;
    const within = (value, most) => Math.min(Math.max(value, 0), most);
    this.line[which] = { x: within(x, artWidth), y: within(y, artHeight) };
    this.arrange();
    clearTimeout(this.resting);
    this.resting = setTimeout(() => this.ask(), REST_MS);
  }

  listenToLine() {
    for (const end of document.querySelectorAll('#cutline [data-end]')) {
      const which = Number(end.dataset.end);
      end.addEventListener('pointerdown', (event) => {
        event.preventDefault();
        event.stopPropagation();
        end.focus({ preventScroll: true });
        end.setPointerCapture(event.pointerId);
        end.onpointermove = (now) => {
          const at = this.table.at(now);
          const art = this.table.view.art(this.table.piece);
          this.moveEnd(which, (at.x - art.left) / this.table.view.scale, (at.y - art.top) / this.table.view.scale);
        };
      });
      for (const over of ['pointerup', 'pointercancel']) end.addEventListener(over, () => { end.onpointermove = null; });
      end.addEventListener('keydown', (event) => {
        const step = STEP[event.key];
        if (!step) return;
        event.preventDefault();
        event.stopPropagation();
        const mm = event.altKey ? 0.1 : event.shiftKey ? 10 : 1;
        const { x, y } = this.line[which];
        this.moveEnd(which, x + step[0] * mm, y + step[1] * mm);
      });
    }
  }

  async ask() {
    const [from, to] = this.line;
    const wanted = new URLSearchParams({ x0: from.x, y0: from.y, x1: to.x, y1: to.y });
    const address = `${this.table.base}section/${this.key}/?${wanted}`;
    if (address === this.asked) return;
    this.asked = address;
    const place = $('#cutshown');
    try {
      const answer = await fetch(address);
      const text = await answer.text();
      if (address !== this.asked || answer.status === 410) return;
      if (answer.ok) place.innerHTML = text;
      else place.textContent = text;
    } catch {
      this.asked = '';
    }
  }
}
