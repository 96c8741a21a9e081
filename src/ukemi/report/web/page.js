"use strict";
// An item may have the name of something that every object has.
const count = (counts, name) => Object.hasOwn(counts, name) ? counts[name] : 0;
for (const walk of document.querySelectorAll(".walk")) {
  const routes = JSON.parse(walk.querySelector('script[type="application/json"]').textContent);
  if (!routes.length) continue;
  const find = (selector) => walk.querySelector(selector);
  const select = find("select"), slider = find("input"), now = find(".now");
  const listing = find(".listing"), body = find(".carried tbody"), on = find(".on"), down = find(".down");
  let steps = [], at = 0, wrong = false;

  const show = (number) => {
    at = Math.max(0, Math.min(steps.length - 1, number));
    const step = steps[at], before = at ? steps[at - 1].carried : step.carried;
    slider.value = at;
    slider.setAttribute("aria-valuetext", `step ${at} of ${steps.length - 1}: ${step.words}`);
    const lost = wrong && at === steps.length - 1;
    now.textContent = `Step ${at} of ${steps.length - 1}: ${step.words}. In ${step.room}.` +
      (lost ? " ✗ No run finishes the level after this." : "");
    now.classList.toggle("wrong", lost);
    for (const room of walk.querySelectorAll("[data-room]"))
      room.classList.toggle("here", room.dataset.room === step.room);
    for (const thing of walk.querySelectorAll("[data-opens]"))
      thing.classList.toggle("open", step.open.includes(thing.dataset.opens));
    for (const item of walk.querySelectorAll("[data-lying]"))
      item.classList.toggle("gone", !count(step.lying, item.dataset.lying));
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
    on.textContent = step.on.join(", ") || "none";
    [...listing.children].forEach((line, index) =>
      index === at - 1 ? line.setAttribute("aria-current", "step") : line.removeAttribute("aria-current"));
  };
  const choose = () => {
    ({ steps, wrong } = routes[select.value]);
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
  choose();
}
