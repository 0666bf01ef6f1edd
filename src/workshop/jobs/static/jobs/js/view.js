// Where the piece lies on the screen: millimetres to pixels, zoom and pan.

const CLOSEST_PX_PER_DOT = 24;

export class View {
  constructor() {
    this.scale = 5; // pixels per mm
    this.x = 0; // screen x of the blank's left edge
    this.y = 0; // screen y of the blank's far edge
    this.fitted = true;
  }

  // Lay the whole blank into a box of the screen.
  fit(piece, box) {
    const margin = 18;
    const wide = Math.max(piece.width, piece.artWidth + 2 * Math.abs(piece.offsetX));
    const high = Math.max(piece.height, piece.artHeight + 2 * Math.abs(piece.offsetY));
    this.scale = Math.min((box.width - 2 * margin) / wide, (box.height - 2 * margin) / high);
    this.x = box.left + (box.width - piece.width * this.scale) / 2;
    this.y = box.top + (box.height - piece.height * this.scale) / 2;
    this.fitted = true;
  }

  zoom(factor, at, piece, least) {
    const most = CLOSEST_PX_PER_DOT / Math.min(piece.along, piece.pitch);
    const scale = Math.min(Math.max(this.scale * factor, least), most);
    const ratio = scale / this.scale;
    this.x = at.x - (at.x - this.x) * ratio;
    this.y = at.y - (at.y - this.y) * ratio;
    this.scale = scale;
    this.fitted = false;
  }

  pan(dx, dy) {
    this.x += dx;
    this.y += dy;
    this.fitted = false;
  }

  // The artwork's middle lies its offsets away from the blank's; y counts upwards.
  art(piece) {
    return {
      left: this.x + ((piece.width - piece.artWidth) / 2 + piece.offsetX) * this.scale,
      top: this.y + ((piece.height - piece.artHeight) / 2 - piece.offsetY) * this.scale,
      width: piece.artWidth * this.scale,
      height: piece.artHeight * this.scale,
      dotX: piece.along * this.scale,
      dotY: piece.pitch * this.scale,
    };
  }
}
