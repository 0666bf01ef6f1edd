// What is burned so far: a picture whose pixels know when they are burned.

const BURNED = [255, 132, 80];
const LATER = [141, 129, 116];
const EVERY_MS = 400;

export class Burned {
  constructor(image, runs, bed) {
    this.image = image;
    this.runs = runs;
    this.bed = bed;
    this.pk = null;
    this.drawn = -1;
    this.at = 0;
  }

  show(run, program) {
    if (!this.image || !run || program.kind !== 'burn') return;
    if (this.pk !== run.pk) this.load(run.pk);
    // Of a burn that was gone on with, what lay before its first row is burned.
    const over = run.over ?? 0;
    const share = program.state === 'done' ? 1 : over + (1 - over) * program.share;
    const time = performance.now();
    if (!this.map || share === this.drawn || (time - this.at < EVERY_MS && share < 1)) return;
    this.at = time;
    this.drawn = share;
    this.draw(share);
  }

  // What is burned of a burn that was broken off, up to a share of its time.
  async preview(pk, share) {
    if (!this.image) return;
    if (this.pk !== pk || !this.map) await this.load(pk);
    if (this.pk === pk && this.map) this.draw(share);
  }

  // The window is the whole bed in the machine's own frame.
  async load(pk) {
    this.pk = pk;
    this.map = null;
    const { width, height } = this.bed;
    const picture = new Image();
    picture.src = `${this.runs}${pk}/path.png`;
    const came = await picture.decode().then(() => true, () => false);
    if (!came || this.pk !== pk) return;
    const { naturalWidth: px, naturalHeight: py } = picture;
    const paper = new OffscreenCanvas(px, py);
    const pen = paper.getContext('2d', { willReadFrequently: true });
    pen.drawImage(picture, 0, 0);
    this.map = pen.getImageData(0, 0, px, py);
    this.drawn = -1;
    for (const [name, value] of [['width', width], ['height', height]]) this.image.setAttribute(name, value);
  }

  async draw(share) {
    const { width, height, data } = this.map;
    const out = new ImageData(width, height);
    const now = Math.round(share * 65535);
    for (let i = 0; i < data.length; i += 4) {
      const due = data[i] * 256 + data[i + 1];
      if (!due) continue;
      const colour = due <= now ? BURNED : LATER;
      [out.data[i], out.data[i + 1], out.data[i + 2]] = colour;
      out.data[i + 3] = 255;
    }
    const paper = new OffscreenCanvas(width, height);
    paper.getContext('2d').putImageData(out, 0, 0);
    const address = URL.createObjectURL(await paper.convertToBlob());
    const old = this.address;
    this.address = address;
    this.image.setAttribute('href', address);
    if (old) setTimeout(() => URL.revokeObjectURL(old), 1000);
  }
}
