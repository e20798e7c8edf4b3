// The world map under a position: drawn on a canvas from the shipped outlines, moved by mouse and keys, in metres.

const RADIUS = 6371008.8, DEGREE = Math.PI / 180 * RADIUS; // metres; mean radius of the earth (IUGG)
let world; // rings of land and lines of borders, in degrees
const load = (at) => world ||= fetch(at).then((r) => r.json()).then(unpack).catch(() => { world = undefined; return { rings: [], lines: [] }; }); // a map without land, until it is drawn again

// unpack turns a topology (TopoJSON) into lines: its arcs are differences of whole numbers.
function unpack(t) {
  const [kx, ky] = t.transform.scale, [dx, dy] = t.transform.translate;
  const arcs = t.arcs.map((arc) => { let x = 0, y = 0; return arc.map(([a, b]) => [(x += a) * kx + dx, (y += b) * ky + dy]); });
  const line = (list) => list.flatMap((i) => i < 0 ? [...arcs[~i]].reverse() : arcs[i]);
  const rings = [];
  const take = (g) => {
    if (g.type === "GeometryCollection") g.geometries.forEach(take);
    else if (g.type === "Polygon") rings.push(...g.arcs.map(line));
    else if (g.type === "MultiPolygon") g.arcs.forEach((p) => rings.push(...p.map(line)));
  };
  take(t.objects.land);
  const bounded = (raw) => { // a line that crosses the date line goes on beyond it
    let turn = 0;
    const points = raw.map(([x, y], i) => { if (i && Math.abs(x - raw[i - 1][0]) > 180) turn += x < raw[i - 1][0] ? 360 : -360; return [x + turn, y]; });
    if (turn && raw.some(([, y]) => y < -85)) { const [x] = points.at(-1); points.push([x, -90], [points[0][0], -90]); } // Antarctica is no ring, but an edge
    return { points, box: boxOf(points) };
  };
  const boxOf = (points) => points.reduce((b, [x, y]) => [Math.min(b[0], x), Math.min(b[1], y), Math.max(b[2], x), Math.max(b[3], y)], [999, 90, -999, -90]);
  return { rings: rings.map(bounded), lines: arcs.map(bounded) };
}

const round = (x) => { const p = 10 ** Math.floor(Math.log10(x)); return [1, 2, 5, 10].map((k) => k * p).find((v) => v >= x * 0.999); };
const words = (m) => m >= 1000 ? (m / 1000).toLocaleString("en-GB") + " km" : m.toLocaleString("en-GB") + " m";

function map(root) {
  if (root.dataset.ready) return;
  root.dataset.ready = "1";
  const canvas = root.querySelector("canvas"), text = root.querySelector("[data-scale]"), told = root.querySelector("[data-point]");
  const input = () => document.getElementById(root.dataset.for);
  let point = null, centre = [20, 10], scale = 0, towns = [], asked = "", drag = null; // scale in metres a pixel
  const wide = () => canvas.clientWidth, high = () => canvas.clientHeight;
  const least = 0.2, most = () => 360 * DEGREE / wide();
  const squeeze = () => scale * wide() > 60 * DEGREE ? 1 : Math.max(0.05, Math.cos(centre[0] * Math.PI / 180));
  const toX = (lon) => wide() / 2 + ((lon - centre[1] + 540) % 360 - 180) * DEGREE * squeeze() / scale;
  const toY = (lat) => high() / 2 - (lat - centre[0]) * DEGREE / scale;
  const step = () => round(8 * scale);

  function take() { // what the server says the point is
    const [lat, lon] = told.textContent.split(",").map(parseFloat);
    const before = point;
    point = Number.isFinite(lat) && Number.isFinite(lon) ? [lat, lon] : null;
    if (point && !before) { scale = 1000; centre = [...point]; }
    else if (!scale) scale = most();
    else if (point && (Math.abs(toX(point[1]) - wide() / 2) > wide() * 0.45 || Math.abs(toY(point[0]) - high() / 2) > high() * 0.45)) { centre = [...point]; if (scale > 8000) scale = 4000; }
    draw();
  }

  async function draw() {
    const w = await load(root.dataset.world);
    const dpr = window.devicePixelRatio || 1, c = canvas.getContext("2d");
    if (!wide()) return;
    canvas.width = wide() * dpr; canvas.height = high() * dpr;
    c.setTransform(dpr, 0, 0, dpr, 0, 0);
    const k = squeeze(), spanY = high() * scale / DEGREE, spanX = wide() * scale / DEGREE / k;
    c.fillStyle = "#DCE5E6"; c.fillRect(0, 0, wide(), high());
    const trace = (list) => {
      c.beginPath();
      for (const { points, box } of list) for (const turn of [-360, 0, 360]) {
        if (box[2] + turn < centre[1] - spanX / 2 || box[0] + turn > centre[1] + spanX / 2 || box[3] < centre[0] - spanY / 2 || box[1] > centre[0] + spanY / 2) continue;
        points.forEach(([x, y], i) => { const px = wide() / 2 + (x + turn - centre[1]) * DEGREE * k / scale, py = toY(y); i ? c.lineTo(px, py) : c.moveTo(px, py); });
      }
    };
    trace(w.rings); c.fillStyle = "#F7F6F0"; c.fill();
    trace(w.lines); c.strokeStyle = "#8F9B94"; c.lineWidth = 0.75; c.stroke();
    c.font = "11px " + getComputedStyle(canvas).fontFamily; c.textBaseline = "middle";
    const boxes = point ? [[toX(point[1]) - 12, toY(point[0]) - 12, 24, 24]] : []; // no name over another or over the point
    for (const t of towns) {
      const x = toX(t.lon), y = toY(t.lat), long = c.measureText(t.name).width;
      if (x < 2 || y < 8 || x > wide() - 2 || y > high() - 22 || boxes.some(([a, b, p, q]) => x + 8 + long > a && x - 3 < a + p && y + 7 > b && y - 7 < b + q)) continue;
      boxes.push([x - 3, y - 7, long + 11, 14]);
      c.fillStyle = "#54625B"; c.beginPath(); c.arc(x, y, 2, 0, 7); c.fill();
      c.fillStyle = "#16241F"; c.fillText(t.name, x + 5, y);
    }
    if (point) { // the point: a ring with a cross, seen on any ground
      const x = toX(point[1]), y = toY(point[0]);
      for (const [colour, width] of [["#FFFFFF", 5], ["#16241F", 2]]) {
        c.strokeStyle = colour; c.lineWidth = width; c.beginPath(); c.arc(x, y, 7, 0, 7); c.moveTo(x - 12, y); c.lineTo(x - 3, y); c.moveTo(x + 3, y); c.lineTo(x + 12, y); c.moveTo(x, y - 12); c.lineTo(x, y - 3); c.moveTo(x, y + 3); c.lineTo(x, y + 12); c.stroke();
      }
    }
    const bar = round(wide() / 6 * scale), long = bar / scale; // the scale
    c.strokeStyle = "#16241F"; c.lineWidth = 1.5; c.beginPath(); c.moveTo(8, high() - 14); c.lineTo(8, high() - 8); c.lineTo(8 + long, high() - 8); c.lineTo(8 + long, high() - 14); c.stroke();
    c.fillStyle = "#16241F"; c.fillText(words(bar), 14 + long, high() - 10);
    text.textContent = point ? "Arrow keys move it " + words(step()) + ", with Shift ten times that; + and − change the scale. A click sets it; drag the point, or the map." : "Type a town, or click: the point is set there.";
    names();
  }

  async function names() { // towns to find one's way by
    const span = Math.min(30, high() * scale / DEGREE / 2), q = `lat=${centre[0].toFixed(3)}&lon=${centre[1].toFixed(3)}&span=${span.toFixed(3)}`;
    if (q === asked) return;
    asked = q;
    try { const r = await fetch("/towns?" + q); if (r.ok && q === asked) { towns = await r.json(); draw(); } } catch { /* a map without names */ }
  }

  function set(lat, lon) {
    point = [Math.max(-90, Math.min(90, lat)), (lon + 540) % 360 - 180];
    const f = input();
    if (!f || f.matches(":disabled")) return;
    f.value = point.map((d) => String(+d.toFixed(6))).join(", ");
    f.dispatchEvent(new Event("input", { bubbles: true }));
    draw();
  }
  const at = (e) => { const b = canvas.getBoundingClientRect(); return [centre[0] - (e.clientY - b.top - high() / 2) * scale / DEGREE, centre[1] + (e.clientX - b.left - wide() / 2) * scale / DEGREE / squeeze()]; };
  // near tells whether the pointer is on the point, which then is dragged.
  const near = (e) => { const b = canvas.getBoundingClientRect(); return point && Math.hypot(e.clientX - b.left - toX(point[1]), e.clientY - b.top - toY(point[0])) < 14; };
  function zoom(factor, on) {
    const before = on || point || centre;
    scale = Math.max(least, Math.min(most(), scale * factor));
    if (point || on) centre = scale >= most() ? [20, 10] : [before[0] + (centre[0] - before[0]) * factor, before[1] + (centre[1] - before[1]) * factor];
    draw();
  }
  canvas.addEventListener("pointerdown", (e) => { drag = { x: e.clientX, y: e.clientY, from: [...centre], moved: false, point: near(e) }; canvas.setPointerCapture(e.pointerId); });
  canvas.addEventListener("pointermove", (e) => {
    if (!drag) return;
    const dx = e.clientX - drag.x, dy = e.clientY - drag.y;
    if (Math.hypot(dx, dy) > 4) drag.moved = true;
    if (drag.moved && drag.point) { point = at(e); draw(); return; }
    if (drag.moved) { centre = [Math.max(-85, Math.min(85, drag.from[0] + dy * scale / DEGREE)), drag.from[1] - dx * scale / DEGREE / squeeze()]; draw(); }
  });
  canvas.addEventListener("pointerup", (e) => { if (drag && (drag.point || !drag.moved)) set(...at(e)); drag = null; });
  canvas.addEventListener("pointercancel", () => { drag = null; });
  canvas.addEventListener("wheel", (e) => { e.preventDefault(); zoom(e.deltaY > 0 ? 1.5 : 1 / 1.5, at(e)); }, { passive: false });
  canvas.addEventListener("keydown", (e) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const way = { ArrowUp: [1, 0], ArrowDown: [-1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key];
    if (way) {
      e.preventDefault();
      const p = point || centre, m = step() * (e.shiftKey ? 10 : 1) / DEGREE;
      set(p[0] + way[0] * m, p[1] + way[1] * m / Math.max(0.01, Math.cos(p[0] * Math.PI / 180)));
      if (Math.abs(toX(point[1]) - wide() / 2) > wide() * 0.42 || Math.abs(toY(point[0]) - high() / 2) > high() * 0.42) { centre = [...point]; draw(); }
    } else if (e.key === "+" || e.key === "=") { e.preventDefault(); zoom(0.5); }
    else if (e.key === "-") { e.preventDefault(); zoom(2); }
  });
  new MutationObserver(take).observe(told, { childList: true, characterData: true, subtree: true });
  new ResizeObserver(draw).observe(canvas);
  take();
};
export const mapsIn = (root) => { for (const m of root.querySelectorAll("[data-map]")) map(m); };
document.addEventListener("DOMContentLoaded", () => mapsIn(document));
