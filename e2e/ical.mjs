// Reads cards and calendars, a JSON list of texts on standard input, with an outside parser, and prints their fields.
import ICAL from "../assets/node_modules/ical.js/dist/ical.js";
const texts = JSON.parse(await new Promise((done) => { let s = ""; process.stdin.on("data", (b) => s += b).on("end", () => done(s)); }));
const value = (v) => v === null || v === undefined ? null : Array.isArray(v) ? v.map(value) : typeof v === "object" ? v.toString() : v;
const out = texts.map((text) => {
  const c = new ICAL.Component(ICAL.parse(text));
  const all = (component, name) => component.getAllProperties(name).map((p) => value(p.getValues().length > 1 ? p.getValues() : p.getFirstValue()));
  if (c.name === "vcard") return Object.fromEntries(["n", "fn", "org", "title", "tel", "email", "url", "adr", "bday", "note"].map((k) => [k, all(c, k)]));
  const v = c.getFirstSubcomponent("vevent"), e = new ICAL.Event(v);
  for (const z of c.getAllSubcomponents("vtimezone")) ICAL.TimezoneService.register(new ICAL.Timezone(z));
  const fields = Object.fromEntries(["uid", "summary", "location", "description", "url", "dtstamp"].map((k) => [k, all(v, k)]));
  fields.start = e.startDate.isDate ? e.startDate.toString() : e.startDate.zone.tzid === "floating" ? e.startDate.toString() : e.startDate.toJSDate().toISOString();
  fields.end = e.endDate ? (e.endDate.isDate ? e.endDate.toString() : e.endDate.toJSDate().toISOString()) : null;
  const alarm = v.getFirstSubcomponent("valarm");
  fields.alarm = alarm ? alarm.getFirstPropertyValue("trigger").toSeconds() : null;
  fields.occurrences = [];
  if (e.isRecurring()) { const i = e.iterator(); for (let n = 0, t; n < 40 && (t = i.next()); n++) fields.occurrences.push(t.isDate ? t.toString() : t.toJSDate().toISOString()); }
  return fields;
});
console.log(JSON.stringify(out));
