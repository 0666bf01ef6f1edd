// The tool path played: every pixel of its picture knows when it is burned.

const NEVER = 0;
const BURNED = [255, 132, 80];
const LATER = [92, 82, 73];
const TRAVEL = [59, 88, 112];
const TRAVEL_DASH = 6;

class PathView {
  constructor(root) {
    this.root = root;
    this.canvas = root.querySelector('canvas');
    this.facts = JSON.parse(root.dataset.facts);
    this.scrub = root.querySelector('[name=share]');
    this.window = { ...this.facts };
    this.share = 1;
    this.heads = [];
    this.playing = 0;
    this.listen();
    this.load();
    this.follow();
  }

  // Of a path that is past there is nothing to see: the page brings the new one.
  async follow() {
    const found = await fetch(`${this.root.dataset.base}.json`).catch(() => null);
    if (!found?.ok) return;
    this.heads = await found.json();
    this.draw();
  }

  async load() {
    const box = this.canvas.getBoundingClientRect();
    this.fit(box.width / box.height);
    this.canvas.width = Math.round(box.width);
    this.canvas.height = Math.round(box.height);
    const { left, front, width, height } = this.window;
    const query = new URLSearchParams({ x: left, y: front, w: width, h: height, px: this.canvas.width, py: this.canvas.height });
    const image = new Image();
    image.src = `${this.root.dataset.base}.png?${query}`;
    this.asked = image;
    const came = await image.decode().then(() => true, () => false);
    if (!came || this.asked !== image) return;
    const paper = new OffscreenCanvas(this.canvas.width, this.canvas.height);
    const pen = paper.getContext('2d', { willReadFrequently: true });
    pen.drawImage(image, 0, 0);
    this.map = pen.getImageData(0, 0, this.canvas.width, this.canvas.height).data;
    this.drawn = this.window;
    this.draw();
  }

  // The window keeps the canvas's shape, about its own middle.
  fit(ratio) {
    const { left, front, width, height } = this.window;
    const wide = Math.max(width, height * ratio);
    const high = wide / ratio;
    this.window = { left: left + (width - wide) / 2, front: front + (height - high) / 2, width: wide, height: high };
  }

  draw() {
    if (!this.map) return;
    const { width, height } = this.canvas;
    const pen = this.canvas.getContext('2d');
    const picture = pen.createImageData(width, height);
    const out = picture.data;
    const now = Math.round(this.share * 65535);
    for (let i = 0, at = 0; i < this.map.length; i += 4, at += 1) {
      const burned = this.map[i] * 256 + this.map[i + 1];
      const passed = this.map[i + 2] * 256;
      let colour = null;
      if (burned !== NEVER) colour = burned <= now ? BURNED : LATER;
      else if (passed !== NEVER && passed <= now && (at + Math.floor(at / width)) % TRAVEL_DASH < 3) colour = TRAVEL;
      if (!colour) continue;
      [out[i], out[i + 1], out[i + 2]] = colour;
      out[i + 3] = 255;
    }
    pen.clearRect(0, 0, width, height);
    // As the operator sees the bed: axes that run left or to the front are turned.
    createImageBitmap(picture).then((bitmap) => {
      pen.save();
      pen.clearRect(0, 0, width, height);
      pen.translate(this.facts.signX < 0 ? width : 0, this.facts.signY < 0 ? height : 0);
      pen.scale(this.facts.signX, this.facts.signY);
      pen.drawImage(bitmap, 0, 0);
      this.drawHead(pen);
      pen.restore();
    });
    this.tell();
  }

  head() {
    let low = 0;
    let high = this.heads.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.heads[middle][0] <= this.share) low = middle;
      else high = middle - 1;
    }
    return this.heads[low];
  }

  drawHead(pen) {
    const head = this.head();
    if (!head) return;
    const x = ((head[1] - this.drawn.left) / this.drawn.width) * this.canvas.width;
    const y = this.canvas.height - ((head[2] - this.drawn.front) / this.drawn.height) * this.canvas.height;
    pen.strokeStyle = '#fffaf0';
    pen.lineWidth = 2;
    pen.beginPath();
    pen.arc(x, y, 7, 0, 2 * Math.PI);
    pen.moveTo(x - 12, y);
    pen.lineTo(x + 12, y);
    pen.moveTo(x, y - 12);
    pen.lineTo(x, y + 12);
    pen.stroke();
  }

  tell() {
    const clock = (seconds) => {
      const whole = Math.round(seconds);
      const [h, m, s] = [Math.floor(whole / 3600), Math.floor((whole % 3600) / 60), whole % 60];
      const two = (value) => String(value).padStart(2, '0');
      return h ? `${h}:${two(m)}:${two(s)}` : `${m}:${two(s)}`;
    };
    const head = this.head();
    const place = head ? `X ${head[1].toFixed(1)} Y ${head[2].toFixed(1)} mm` : '';
    const gone = this.share * this.facts.seconds;
    this.root.querySelector('[data-time]').textContent = `${clock(gone)} gone, ${clock(this.facts.seconds - gone)} to go`;
    const part = this.part(gone);
    this.root.querySelector('[data-place]').textContent = part ? `${part}, ${place}` : place;
    this.scrub.value = String(this.share);
    this.scrub.style.setProperty('--v', `${100 * this.share}%`);
    this.scrub.setAttribute('aria-valuetext', `${clock(gone)}, ${place}`);
  }

  play(on) {
    const button = this.root.querySelector('[data-play]');
    button.setAttribute('aria-pressed', String(on));
    button.textContent = on ? 'Pause' : 'Play';
    cancelAnimationFrame(this.playing);
    this.playing = 0;
    if (!on) return;
    if (this.share >= 1) this.share = 0;
    let last = performance.now();
    const step = (now) => {
      const speed = Number(this.root.querySelector('[name=pace]').value);
      this.share = Math.min(this.share + ((now - last) / 1000) * (speed / this.facts.seconds), 1);
      last = now;
      this.draw();
      if (this.share < 1 && this.root.isConnected) this.playing = requestAnimationFrame(step);
      else this.play(false);
    };
    this.playing = requestAnimationFrame(step);
  }

  // Which operation is under way, where there is more than one.
  part(gone) {
    const parts = this.facts.parts;
    if (parts.length < 2) return '';
    let left = gone;
    return (parts.find(([, seconds]) => (left -= seconds) <= 0) ?? parts.at(-1))[0];
  }
  zoom(times, x = 0.5, y = 0.5) {
    const { left, front, width, height } = this.window;
    const wide = Math.min(Math.max(width / times, 0.5), 20 * this.facts.width);
    const high = (wide * height) / width;
    this.window = { left: left + (width - wide) * x, front: front + (height - high) * (1 - y), width: wide, height: high };
    this.later();
  }

  pan(x, y) {
    this.window = {
      ...this.window,
      left: this.window.left - x * this.window.width * this.facts.signX,
      front: this.window.front + y * this.window.height * this.facts.signY,
    };
    this.later();
  }

  later() {
    clearTimeout(this.waiting);
    this.waiting = setTimeout(() => this.load(), 120);
  }

  listen() {
    this.scrub.addEventListener('input', () => {
      this.play(false);
      this.share = Number(this.scrub.value);
      this.draw();
    });
    this.root.querySelector('[data-play]').addEventListener('click', () => this.play(!this.playing));
    this.root.querySelector('[data-all]').addEventListener('click', () => {
      this.window = { ...this.facts };
      this.load();
    });
    this.canvas.addEventListener('wheel', (event) => {
      event.preventDefault();
      const box = this.canvas.getBoundingClientRect();
      const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
      this.zoom(event.deltaY < 0 ? 1.4 : 1 / 1.4, this.facts.signX < 0 ? 1 - x : x, this.facts.signY < 0 ? 1 - y : y);
    }, { passive: false });
    this.canvas.addEventListener('pointerdown', (event) => {
      this.canvas.setPointerCapture(event.pointerId);
      this.from = [event.clientX, event.clientY];
    });
    this.canvas.addEventListener('pointermove', (event) => {
      if (!this.from) return;
      const box = this.canvas.getBoundingClientRect();
      this.pan((event.clientX - this.from[0]) / box.width, (event.clientY - this.from[1]) / box.height);
      this.from = [event.clientX, event.clientY];
    });
    for (const end of ['pointerup', 'pointercancel']) {
      this.canvas.addEventListener(end, () => { this.from = null; });
    }
    this.canvas.addEventListener('keydown', (event) => {
      const act = {
        '+': () => this.zoom(1.4), '-': () => this.zoom(1 / 1.4), ArrowLeft: () => this.pan(0.1, 0),
        ArrowRight: () => this.pan(-0.1, 0), ArrowUp: () => this.pan(0, 0.1), ArrowDown: () => this.pan(0, -0.1),
      }[event.key];
      if (!act) return;
      event.preventDefault();
      event.stopPropagation();
      act();
    });
  }
}

const begin = () => document.querySelectorAll('.pathview:not([data-begun])').forEach((root) => {
  root.dataset.begun = '1';
  root.view = new PathView(root);
});
document.addEventListener('htmx:afterSettle', begin);
begin();
