// Between the screen, the dots of the burn grid, and the picture file.
// A map is nine numbers of a 3 × 3 matrix, row by row.

export function through(map, x, y) {
  const w = map[6] * x + map[7] * y + map[8];
  return [(map[0] * x + map[1] * y + map[2]) / w, (map[3] * x + map[4] * y + map[5]) / w];
}

export function toDots(art, at) {
  return [(at.x - art.left) / art.dotX, (at.y - art.top) / art.dotY];
}

const rounded = (value) => Math.round(value * 1e5) / 1e5;

// Points of the screen as shares of the file, as edits are kept.
export function toShares(piece, art, points) {
  return points.map((at) => through(piece.toFile, ...toDots(art, at)).map(rounded))
    .map((pair) => pair.map((value) => Math.min(Math.max(value, -1), 2)));
}

// A length in mm on the piece as a share of the file's longer side.
export function shareOfLength(piece, mm) {
  const [cx, cy] = [piece.cols / 2, piece.rows / 2];
  const scale = (x, y) => [x * piece.fileWidth, y * piece.fileHeight];
  const here = scale(...through(piece.toFile, cx, cy));
  const right = scale(...through(piece.toFile, cx + 1, cy));
  const down = scale(...through(piece.toFile, cx, cy + 1));
  const [ax, ay, bx, by] = [right[0] - here[0], right[1] - here[1], down[0] - here[0], down[1] - here[1]];
  const pixels = Math.sqrt(Math.abs(ax * by - ay * bx)) * (mm / Math.sqrt(piece.along * piece.pitch));
  return Math.min(Math.max(pixels / Math.max(piece.fileWidth, piece.fileHeight), 0.0005), 1);
}

// Leave out points that lie closer than so many pixels to the one before.
export function thinned(points, apart, most) {
  const kept = points.slice(0, 1);
  for (const point of points.slice(1)) {
    const last = kept[kept.length - 1];
    if (Math.hypot(point.x - last.x, point.y - last.y) >= apart) kept.push(point);
  }
  const end = points[points.length - 1];
  if (kept[kept.length - 1] !== end) kept.push(end);
  return kept.length > most ? thinned(kept, 2 * apart, most) : kept;
}
