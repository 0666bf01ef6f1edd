// What each drawing tool draws, and what it posts when the hand is lifted.
// A tool has a way (stroke, box, point, line, polygon) and `post(points, table)`.

import { setAndPost } from './fields.js';
import { shareOfLength, thinned, toShares } from './maps.js';
import { setting } from './settings.js';
import { send } from './strokes.js';

const shares = (table, points) => toShares(table.piece, table.view.art(table.piece), points);

function stroke(table, points, size, softness) {
  return {
    points: shares(table, thinned(points, 1.5, table.piece.mostPoints)),
    size: shareOfLength(table.piece, setting(size)),
    softness: setting(softness),
  };
}

function brushing(kind) {
  return {
    way: 'stroke',
    size: 'size',
    colour: () => (setting('keep') ? 'rgba(255,252,244,.55)' : 'rgba(165,191,212,.6)'),
    post: (points, table) => send('mask_add', { kind, keep: setting('keep'), ...stroke(table, points, 'size', 'softness') }),
    slow: kind === 'hint',
  };
}

function shading(lighten) {
  return {
    way: 'stroke',
    size: 'shade',
    colour: () => (lighten ? 'rgba(255,255,255,.3)' : 'rgba(20,16,12,.3)'),
    post: (points, table) =>
      send('retouch_add', { lighten, strength: setting('strength'), ...stroke(table, points, 'shade', 'shadesoft') }),
  };
}

function outline(table, [a, b]) {
  const box = [a, { x: b.x, y: a.y }, b, { x: a.x, y: b.y }];
  send('mask_add', { kind: 'cutout', outline: shares(table, box) });
}

// How far a line is off the nearest upright or level, in degrees clockwise.
function tilt([a, b]) {
  const angle = (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI;
  return angle - Math.round(angle / 90) * 90;
}

export const TOOLS = {
  cutout: { way: 'box', post: (points, table) => outline(table, points), slow: true },
  flood: {
    way: 'point',
    post: ([at], table) =>
      send('mask_add', {
        kind: 'flood',
        at: shares(table, [at])[0],
        tolerance: setting('tolerance'),
        touching: setting('touching'),
        keep: setting('keep'),
      }),
  },
  brush: brushing('brush'),
  hint: brushing('hint'),
  lasso: {
    way: 'polygon',
    post: (points, table) => {
      if (points.length < 3) return false;
      send('mask_add', { kind: 'lasso', keep: setting('keep'), points: shares(table, thinned(points, 1.5, table.piece.mostPoints)) });
      return true;
    },
  },
  lighten: shading(true),
  darken: shading(false),
  pick: {
    way: 'point',
    post: ([at], table) => {
      const [x, y] = shares(table, [at])[0];
      window.htmx.ajax('POST', `${table.base}pick/`, { target: '#stations', swap: 'morph', values: { x, y } });
    },
  },
  level: {
    way: 'line',
    post: (points) => {
      const field = document.querySelector('#f-straighten');
      const angle = Math.min(Math.max(Number(field.value) - tilt(points), -45), 45);
      setAndPost({ straighten: String(Math.round(angle * 100) / 100) });
    },
  },
  nudge: {
    way: 'move',
    post: ([a, b], table) => {
      const mm = (pixels) => Math.round((pixels / table.view.scale) * 100) / 100;
      setAndPost({ nudge_x: mm(b.x - a.x), nudge_y: mm(a.y - b.y) });
    },
  },
};
