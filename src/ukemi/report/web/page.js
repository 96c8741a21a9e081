"use strict";
// An item may have the name of something that every object has.
const count = (counts, name) => Object.hasOwn(counts, name) ? counts[name] : 0;
// Where the reader was, kept while a page that is served comes anew.
const store = `ukemi ${location.pathname}${location.search}`, kept = JSON.parse(sessionStorage.getItem(store) || "{}");
const keep = (name, value) => {
  kept[name] = value;
  sessionStorage.setItem(store, JSON.stringify(kept));
};

// The map: as large as it can be read, whole, or anything between; dragged, scrolled, by keys.
const readable = 11;
const mapOf = (walk, name) => {
  const map = walk.querySelector(".map"), svg = map.querySelector("svg");
  const wide = svg.viewBox.baseVal.width || 1, high = svg.viewBox.baseVal.height || 1;
  const sizes = [...svg.querySelectorAll("text")].map((text) => parseFloat(getComputedStyle(text).fontSize));
  const least = Math.min(...sizes, 16);
  const room = () => Math.min(Math.max(80, map.clientWidth - 16) / wide, Math.max(80, innerHeight * 0.75 - 20) / high);
  let scale = 1;
  // Names stay readable on a small map: they grow as far as their box is wide, and the rest of it is left out.
  const names = [...svg.querySelectorAll(".room > .head")].map((text) =>
    [text, text.getComputedTextLength(), text.parentNode.querySelector("rect").width.baseVal.value - 10]);
  const printNames = () => {
    const small = 12 * scale < 8.5;
    map.classList.toggle("far", small && names.length > 0);
    for (const [text, wide, most] of names)
      text.style.fontSize = small ? `${Math.max(12, Math.min(9.5 / scale, 12 * most / Math.max(wide, 1)))}px` : "";
  };
  const size = (wanted) => {
    const [x, y] = [map.scrollLeft + map.clientWidth / 2, map.scrollTop + map.clientHeight / 2];
    const before = scale;
    scale = Math.max(0.05, Math.min(6, wanted));
    svg.style.width = `${wide * scale}px`;
    printNames();
    map.scrollLeft = x * scale / before - map.clientWidth / 2;
    map.scrollTop = y * scale / before - map.clientHeight / 2;
    keep(`${name}/zoom`, scale);
  };
  const zoom = {
    in: () => size(scale * 1.25), out: () => size(scale / 1.25), fit: () => size(room()),
    read: () => size(Math.max(readable / least, Math.min(room(), 1.4))),
  };
  for (const button of walk.querySelectorAll("[data-zoom]"))
    button.addEventListener("click", zoom[button.dataset.zoom]);
  map.addEventListener("keydown", (event) => {
    const act = { "+": zoom.in, "=": zoom.in, "-": zoom.out, "0": zoom.read }[event.key];
    if (act && !event.ctrlKey && !event.metaKey) { event.preventDefault(); act(); }
  });
  let held = null;
  map.addEventListener("pointerdown", (event) => {
    if (event.pointerType !== "mouse" || event.button) return;  // fingers scroll by themselves
    held = [event.clientX + map.scrollLeft, event.clientY + map.scrollTop];
    map.classList.add("moving");
  });
  window.addEventListener("pointermove", (event) => {
    if (held) [map.scrollLeft, map.scrollTop] = [held[0] - event.clientX, held[1] - event.clientY];
  });
  window.addEventListener("pointerup", () => { held = null; map.classList.remove("moving"); });
  if (kept[`${name}/zoom`]) size(kept[`${name}/zoom`]); else size(Math.min(room(), 1.4));
  return { map, svg };
};

// Where a room, or a cell of a floor, is on the map.
const placeOn = (svg) => {
  const rooms = new Map(), floors = new Map();
  for (const one of svg.querySelectorAll("[data-room]")) rooms.set(one.dataset.room, one.querySelector("rect"));
  for (const one of svg.querySelectorAll("[data-floor]")) floors.set(one.dataset.floor, one);
  const number = (part, name) => parseFloat(part.getAttribute(name));
  return (where) => {
    if (Array.isArray(where)) {
      const floor = floors.get(where[0]), cell = number(floor, "data-cell");
      return [number(floor, "x") + (where[1] - 0.5) * cell, number(floor, "y") + (where[2] - 0.5) * cell];
    }
    const box = rooms.get(where);
    return box && [number(box, "x") + number(box, "width") / 2, number(box, "y") + number(box, "height") / 2];
  };
};

// The pace of a route: the rooms in reach and the things to do before each step. A click goes to the step.
const paceOf = (box, go) => {
  let shade = null, spans = [];
  const draw = (steps) => {
    const known = steps.map((step) => step.pace).slice(1);
    box.hidden = !known.length || known.some((one) => !one) || known.at(-1).to === 0;
    box.replaceChildren();
    spans = [];
    shade = null;
    if (box.hidden) return;
    const wide = 1000, high = 130, end = known.at(-1).to;
    const most = Math.max(1, ...known.map((one) => Math.max(one.rooms, one.things)));
    const x = (step) => (step / end * wide).toFixed(1), y = (value) => (high - value / most * (high - 12)).toFixed(1);
    const svg = document.createElementNS(document.querySelector(".map svg").namespaceURI, "svg");
    const add = (name, values) => {
      const part = document.createElementNS(svg.namespaceURI, name);
      for (const [key, value] of Object.entries(values)) part.setAttribute(key, value);
      svg.append(part);
      return part;
    };
    for (const [key, value] of [["viewBox", `0 0 ${wide} ${high}`], ["preserveAspectRatio", "none"], ["role", "img"],
      ["aria-label", `Pace: ${known[0].rooms} rooms in reach at the start, ${known.at(-1).rooms} at the end`]])
      svg.setAttribute(key, value);
    const bar = (one, kind) => add("rect", { x: x(one.from), y: 0, height: high, class: kind,
      width: Math.max(0, x(one.to) - x(one.from)) });
    for (const one of known) if (one.again) bar(one, "again");
    for (const one of known) if (one.new.length) add("path", { d: `M${x(one.to)} 0V${high}`, class: "new", "vector-effect": "non-scaling-stroke" });
    for (const [field, kind] of [["rooms", "open"], ["things", "todo"]])
      add("path", { class: kind, "vector-effect": "non-scaling-stroke",
        d: known.map((one, n) => `${n ? "V" : "M0 "}${y(one[field])}H${x(one.to)}`).join("") });
    shade = add("rect", { x: 0, y: 0, width: 0, height: high, class: "at" });
    spans = known.map((one, n) => {
      const hit = bar(one, "hit"), title = document.createElementNS(svg.namespaceURI, "title");
      title.textContent = `${steps[n + 1].words}: ${one.rooms} rooms in reach, ${one.things} things to do` +
        (one.new.length ? `; new: ${one.new.join(", ")}` : "") + (one.again ? "; ground walked again" : "");
      hit.append(title);
      hit.addEventListener("click", () => go(n + 1));
      return hit;
    });
    const words = document.createElement("p");
    words.textContent = "Pace: the line is the rooms in reach, the dashes are the things to do; upright lines bring something new; shaded ground is walked again. Click a step.";
    box.append(words, svg);
  };
  const mark = (at) => {
    if (!shade) return;
    const hit = spans[at - 1], wide = hit ? parseFloat(hit.getAttribute("width")) : 0;
    shade.setAttribute("x", hit ? hit.getAttribute("x") - (wide < 4 ? 2 : 0) : 0);
    shade.setAttribute("width", Math.max(4, wide));
  };
  return { draw, mark };
};

for (const walk of document.querySelectorAll(".walk")) {
  const name = walk.closest("article").id, { map, svg } = mapOf(walk, name), place = placeOn(svg);
  const trails = ["ahead", "trail"].map((kind) => {
    const line = document.createElementNS(svg.namespaceURI, "path");
    line.setAttribute("class", kind);
    svg.insertBefore(line, svg.querySelector(".cell, .room"));  // under what stands there
    return line;
  });
  const routes = JSON.parse(walk.querySelector('script[type="application/json"]').textContent);
  if (!routes.length) continue;
  const find = (selector) => walk.querySelector(selector);
  const select = find("select"), slider = find("input"), now = find(".now");
  const listing = find(".listing"), body = find(".carried tbody"), on = find(".on"), down = find(".down");
  let steps = [], at = 0, wrong = false;

  const drawn = (some) => some.map((step) => step.way.map(place).filter(Boolean))
    .map((points) => points.map((point, n) => `${n ? "L" : "M"}${point[0]} ${point[1]}`).join("")).join("");
  const show = (number, follow = true) => {
    at = Math.max(0, Math.min(steps.length - 1, number));
    const step = steps[at], before = at ? steps[at - 1].carried : step.carried;
    slider.value = at;
    slider.setAttribute("aria-valuetext", `step ${at} of ${steps.length - 1}: ${step.words}`);
    const lost = wrong && at === steps.length - 1;
    now.textContent = `Step ${at} of ${steps.length - 1}: ${step.words}. ${step.standing}.` +
      (lost ? " ✗ No run finishes the level after this." : "");
    now.classList.toggle("wrong", lost);
    for (const room of walk.querySelectorAll("[data-room]"))
      room.classList.toggle("here", room.dataset.room === step.room);
    for (const thing of walk.querySelectorAll("[data-opens]"))
      thing.classList.toggle("open", count(step.open, thing.dataset.opens) > 0);
    for (const item of walk.querySelectorAll("[data-lying]"))
      item.classList.toggle("gone", !count(step.lying, item.dataset.lying));
    trails[0].setAttribute("d", drawn(steps.slice(at + 1)));
    trails[1].setAttribute("d", drawn(steps.slice(0, at + 1)));
    keep(`${name}/step`, [select.value, at]);
    const here = svg.querySelector(".here");
    if (here && follow) {  // moved into sight, and nothing but the map with it
      const box = here.getBoundingClientRect(), frame = map.getBoundingClientRect();
      if (box.left < frame.left || box.right > frame.right) map.scrollLeft += box.left + box.width / 2 - frame.left - frame.width / 2;
      if (box.top < frame.top || box.bottom > frame.bottom) map.scrollTop += box.top + box.height / 2 - frame.top - frame.height / 2;
    }
    body.replaceChildren();
    for (const item of new Set([...Object.keys(before), ...Object.keys(step.carried)])) {
      const carried = count(step.carried, item), change = carried - count(before, item);
      const row = body.insertRow();
      row.insertCell().textContent = item;
      row.insertCell().textContent = carried + (change ? ` (${change > 0 ? "+" : "−"}${Math.abs(change)})` : "");
      row.classList.toggle("changed", change !== 0);
    }
    if (!body.rows.length) body.insertRow().insertCell().textContent = "nothing";
    const mark = " (put down)", put = Object.keys(step.lying).filter((name) => name.endsWith(mark));
    down.textContent = put.map((name) => {
      const [room, item] = name.slice(0, -mark.length).split("/");
      return `${step.lying[name]} ${item} in ${room}`;
    }).join(", ") || "nothing";
    on.textContent = Object.keys(step.on).join(", ") || "none";
    pace.mark(at);
    [...listing.children].forEach((line, index) =>
      index === at - 1 ? line.setAttribute("aria-current", "step") : line.removeAttribute("aria-current"));
  };
  const pace = paceOf(find(".pace"), (number) => show(number));
  for (const route of routes) {  // each step holds what it changes
    let whole = { carried: {}, lying: {}, open: {}, on: {} };
    for (const step of route.steps) {
      for (const part of Object.keys(whole)) {
        step[part] = { ...whole[part], ...step[part] };
        for (const name of Object.keys(step[part])) if (!step[part][name]) delete step[part][name];
      }
      whole = { carried: step.carried, lying: step.lying, open: step.open, on: step.on };
    }
  }
  const choose = () => {
    ({ steps, wrong } = routes[select.value]);
    pace.draw(steps);
    slider.max = steps.length - 1;
    listing.replaceChildren(...steps.slice(1).map((step) => {
      const line = document.createElement("li");
      line.textContent = step.words;
      return line;
    }));
    show(0);
  };
  const go = { first: () => show(0), back: () => show(at - 1), on: () => show(at + 1), last: () => show(steps.length - 1) };
  select.addEventListener("change", choose);
  slider.addEventListener("input", () => show(Number(slider.value)));
  for (const button of walk.querySelectorAll("[data-go]"))
    button.addEventListener("click", go[button.dataset.go]);
  walk.addEventListener("keydown", (event) => {
    if (event.target === slider || event.target === select) return;
    const move = { ArrowRight: go.on, ArrowLeft: go.back, Home: go.first, End: go.last }[event.key];
    if (move) { event.preventDefault(); move(); }
  });
  // It opens on the problem: the first mistake, at the step that loses the level.
  const problem = routes.findIndex((one) => one.wrong);
  const [route, step] = kept[`${name}/step`] || (problem < 0 ? ["0", 0] : [String(problem), Infinity]);
  if (routes[route]) select.value = route;
  choose();
  show(step);
}

// What can be supposed of a thing, where the page is served: each is a link to the page of the level then.
const supposing = (article) => {
  const box = article.querySelector(".supposing");
  if (!box) return null;
  const offers = JSON.parse(box.querySelector(".offers").textContent), menu = box.querySelector(".menu");
  const here = new URL(location.href), number = box.querySelector("[name=level]").value;
  const said = [...box.querySelectorAll("input[type=hidden][name=suppose]")].map((one) => one.value);
  let from = null;
  const close = () => { menu.hidden = true; };
  const open = (name, some, x, y, origin) => {
    if (!some.length) return;
    const title = document.createElement("b");
    title.textContent = `Suppose of ${name}`;
    menu.replaceChildren(title, ...some.map((one) => {
      const link = document.createElement("a"), query = new URLSearchParams([["level", number]]);
      for (const each of [...said, one]) query.append("suppose", each);
      link.href = `${here.pathname}?${query}#${article.id}`;
      link.textContent = one;
      return link;
    }));
    menu.hidden = false;
    menu.style.left = `${Math.max(4, Math.min(x, innerWidth - menu.offsetWidth - 8))}px`;
    menu.style.top = `${Math.max(4, Math.min(y, innerHeight - menu.offsetHeight - 8))}px`;
    menu.querySelector("a").focus();
    from = origin;
  };
  menu.addEventListener("keydown", (event) => { if (event.key === "Escape") { close(); if (from) from.focus(); } });
  document.addEventListener("pointerdown", (event) => { if (!menu.contains(event.target)) close(); });
  const of = (kind, name) => (offers[kind] || {})[name] || [];
  const some = (part) => {
    const { opens, way, lying, does, room } = part.dataset;
    if (way) return [way, of("door", way)];
    if (opens) return [opens, [...of("door", opens), ...of("chest", opens)]];
    if (lying) {
      const [place, item] = lying.split(/\/(?=[^/]*$)/);
      return [item, [`no ${item} in ${place}`, ...of("item", item)]];
    }
    return does ? [does, of("act", does)] : [room, of("room", room)];
  };
  let down = null;
  const svg = article.querySelector(".map svg");
  svg.addEventListener("pointerdown", (event) => { down = [event.clientX, event.clientY]; });
  svg.addEventListener("click", (event) => {
    if (down && Math.hypot(event.clientX - down[0], event.clientY - down[1]) > 4) return;  // it was dragged
    const part = event.target.closest("[data-opens], [data-way], [data-lying], [data-does], [data-room]");
    if (part) open(...some(part), event.clientX + 6, event.clientY + 6, svg.closest(".map"));
  });
  return (kind, name, button) => {
    const kinds = { reward: "item", "switch or act": "act" }, at = button.getBoundingClientRect();
    const found = of(kinds[kind] || kind, kind === "reward" ? name.split("/").pop() : name);
    open(name, found, at.right + 6, at.top, button);
  };
};

// What there is to know of a thing is shown where the pointer is on it, or the keyboard on its row.
const telling = (article) => {
  const known = JSON.parse(article.querySelector(".known").textContent), box = article.querySelector(".about");
  const of = (kind, name) => Object.hasOwn(known[kind], name) ? known[kind][name] : null;
  const close = () => { box.hidden = true; };
  const tell = (lines, at) => {
    if (!lines) return close();
    box.replaceChildren(...lines.map((line, number) => {
      const part = document.createElement(number ? "span" : "b");
      part.textContent = line;
      return part;
    }));
    box.hidden = false;
    const below = at.bottom + 6 + box.offsetHeight < innerHeight;
    box.style.left = `${Math.max(4, Math.min(at.left, innerWidth - box.offsetWidth - 8))}px`;
    box.style.top = `${below ? at.bottom + 6 : Math.max(4, at.top - 6 - box.offsetHeight)}px`;
  };
  const ofPart = ({ opens, way, lying, does, room }) => {
    if (lying) return of("item", lying.split("/").pop());
    return room ? of("room", room) : of("thing", opens || way || does);
  };
  const map = article.querySelector(".map");
  map.addEventListener("pointerover", (event) => {
    const part = event.target.closest("[data-opens], [data-way], [data-lying], [data-does], [data-room]");
    if (part && !map.classList.contains("moving")) tell(ofPart(part.dataset), part.getBoundingClientRect()); else close();
  });
  map.addEventListener("pointerleave", close);
  map.addEventListener("pointerdown", close);
  addEventListener("scroll", close, true);
  article.addEventListener("keydown", (event) => { if (event.key === "Escape") close(); });
  const kinds = { reward: "item", "switch or act": "thing", door: "thing", chest: "thing", event: "thing" };
  return (row, button) => {
    const kind = kinds[row.dataset.kind] || row.dataset.kind, name = row.dataset.name;
    if (!Object.hasOwn(known, kind)) return;
    const lines = of(kind, kind === "item" ? name.split("/").pop() : name) || of("thing", name.split("/").pop());
    if (!lines) return;
    button.setAttribute("aria-describedby", box.id);
    for (const [event, act] of [["focus", () => tell(lines, button.getBoundingClientRect())], ["blur", close]])
      button.addEventListener(event, act);
    row.addEventListener("pointerenter", () => tell(lines, button.getBoundingClientRect()));
    row.addEventListener("pointerleave", close);
  };
};

// A row of the table, and the search, point at a thing on the map.
for (const article of document.querySelectorAll("article")) {
  const on = (attribute, value) => [...article.querySelectorAll(`svg [${attribute}]`)]
    .filter((part) => part.getAttribute(attribute) === value);
  const parts = (kind, name) => {
    const held = name.split("/").pop();
    if (kind === "room") return on("data-room", name);
    if (kind === "area") return on("data-area", name);
    if (kind === "item" || kind === "reward") {
      const lying = on("data-lying", name);
      return lying.length ? lying : [...on("data-opens", held), ...on("data-does", held)];
    }
    return [...on("data-opens", name), ...on("data-way", name), ...on("data-does", name)];
  };
  const ask = supposing(article), about = telling(article);
  for (const input of article.querySelectorAll(".supposing input[type=hidden][name=suppose]"))
    for (const word of input.value.split(" "))
      for (const kind of ["room", "door"])
        for (const part of parts(kind, word)) part.classList.add("supposed");
  const rows = [...article.querySelectorAll(".things tbody tr")];
  for (const row of rows) {
    const found = parts(row.dataset.kind, row.dataset.name);
    const point = (to) => () => { for (const part of found) part.classList.toggle("pointed", to || row.classList.contains("chosen")); };
    row.addEventListener("pointerenter", point(true));
    row.addEventListener("pointerleave", point(false));
    const button = row.querySelector("button");
    button.setAttribute("aria-pressed", "false");
    about(row, button);
    button.addEventListener("click", () => {
      const chosen = row.classList.toggle("chosen");
      button.setAttribute("aria-pressed", String(chosen));
      point(chosen)();
      if (chosen && found.length && !ask) found[0].scrollIntoView({ block: "center", inline: "center" });
      if (chosen && ask) ask(row.dataset.kind, row.dataset.name, button);
    });
  }
  const search = article.querySelector("[data-find]"), map = article.querySelector(".map");
  search.addEventListener("input", () => {
    for (const part of article.querySelectorAll("svg .pointed")) part.classList.remove("pointed");
    const wanted = search.value.trim().toLowerCase();
    if (!wanted) return;
    const found = rows.map((row) => [row.dataset.name, parts(row.dataset.kind, row.dataset.name)])
      .filter(([name, some]) => some.length && name.toLowerCase().includes(wanted))
      .sort(([a], [b]) => (b.toLowerCase() === wanted) - (a.toLowerCase() === wanted));
    for (const [, some] of found.slice(0, found.length && found[0][0].toLowerCase() === wanted ? 1 : 8))
      for (const part of some) part.classList.add("pointed");
    if (!found.length) return;
    const box = found[0][1][0].getBoundingClientRect(), frame = map.getBoundingClientRect();
    map.scrollLeft += box.left + box.width / 2 - frame.left - frame.width / 2;
    map.scrollTop += box.top + box.height / 2 - frame.top - frame.height / 2;
  });
  const filters = article.querySelector(".filters"), findings = [...article.querySelectorAll(".finding")];
  if (!filters) continue;
  const sift = () => {
    const severities = new Set([...filters.querySelectorAll("input:checked")].map((box) => box.dataset.severity));
    const words = filters.querySelector("[data-words]").value.toLowerCase().split(/\s+/).filter(Boolean);
    for (const one of findings) {
      const text = one.textContent.toLowerCase();
      one.hidden = !severities.has(one.dataset.severity) || !words.every((word) => text.includes(word));
    }
    const left = findings.filter((one) => !one.hidden).length;
    filters.querySelector(".left").textContent = left < findings.length ? `${left} of ${findings.length} shown` : "";
  };
  filters.addEventListener("input", sift);
}
// A page that is served is told when it is old: it comes anew, with the step where it was.
if ("live" in document.body.dataset) {
  const version = document.body.dataset.live;
  const changes = new EventSource(location.pathname + "changes");
  changes.addEventListener("message", (event) => {
    if (version !== event.data) location.reload();
  });
  addEventListener("beforeunload", () => changes.close());  // whoever leaves for another page gets there
}
