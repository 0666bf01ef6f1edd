// The reading page of a swatch card: corners on the photo, and cells picked by eye.

const photo = document.querySelector('#photo');

function corners() {
  const field = document.querySelector('#corners-form [name=corners]');
  const typed = field.value.trim().split(/\s+/).filter(Boolean).map((pair) => pair.split(',').map(Number));
  const start = typed.length === 4 ? typed : [[0.1, 0.9], [0.9, 0.9], [0.1, 0.1], [0.9, 0.1]];
  const rings = [...photo.querySelectorAll('button')];
  const draw = () => {
    rings.forEach((ring, i) => {
      ring.style.left = `${100 * start[i][0]}%`;
      ring.style.top = `${100 * start[i][1]}%`;
    });
    field.value = start.map((pair) => pair.map((v) => v.toFixed(5)).join(',')).join(' ');
  };
  const move = (i, x, y) => {
    start[i] = [Math.min(Math.max(x, 0), 1), Math.min(Math.max(y, 0), 1)];
    draw();
  };
  rings.forEach((ring, i) => {
    ring.addEventListener('pointerdown', (event) => {
      ring.setPointerCapture(event.pointerId);
      ring.onpointermove = (at) => {
        const box = photo.querySelector('img').getBoundingClientRect();
        move(i, (at.clientX - box.left) / box.width, (at.clientY - box.top) / box.height);
      };
    });
    for (const end of ['pointerup', 'pointercancel']) {
      ring.addEventListener(end, () => { ring.onpointermove = null; });
    }
    ring.addEventListener('keydown', (event) => {
      const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (!way) return;
      event.preventDefault();
      const box = photo.querySelector('img').getBoundingClientRect();
      const far = event.shiftKey ? 10 : 1;
      move(i, start[i][0] + (way[0] * far) / box.width, start[i][1] + (way[1] * far) / box.height);
    });
  });
  draw();
}
if (photo) corners();

// A shift card by eye: one cell of each speed
const eye = document.querySelector('#by-eye');
if (eye) {
  const chosen = new Map();
  document.querySelector('#cardview svg').addEventListener('click', (event) => {
    const cell = event.target.closest('[data-cell]');
    if (!cell) return;
    event.preventDefault();
    const row = cell.dataset.cell.split('-')[1];
    chosen.set(row, cell.dataset.cell);
    document.querySelectorAll('#cardview [data-cell]').forEach((one) => {
      const on = chosen.get(one.dataset.cell.split('-')[1]) === one.dataset.cell;
      if (on) one.setAttribute('aria-current', 'true');
      else one.removeAttribute('aria-current');
    });
    eye.querySelector('[name=cells]').value = [...chosen.values()].join(' ');
  });
}
