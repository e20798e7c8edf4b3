// What is said in the line at the bottom.

export const say = (text) => { document.getElementById("notice").textContent = text; };
let quiet = 0;
export const sayBriefly = (text) => { say(text); clearTimeout(quiet); quiet = setTimeout(() => say(""), 4000); };
// announce is for those who hear the page: one place tells what many places show.
export const announce = (text) => { document.getElementById("told").textContent = text; };
export const notice = () => document.getElementById("notice");

// A page that comes back with what is wrong tells the first of it; what is there already when a page opens is not heard by itself.
document.addEventListener("DOMContentLoaded", () => setTimeout(() => {
  const wrong = [...document.querySelectorAll(".error:not([role])")].find((e) => e.textContent.trim() && e.checkVisibility());
  if (wrong) announce(wrong.textContent.trim());
}, 300));
