// What is said in the line at the bottom.

export const say = (text) => { document.getElementById("notice").textContent = text; };
let quiet = 0;
export const sayBriefly = (text) => { say(text); clearTimeout(quiet); quiet = setTimeout(() => say(""), 4000); };
// announce is for those who hear the page: one place tells what many places show.
export const announce = (text) => { document.getElementById("told").textContent = text; };
export const notice = () => document.getElementById("notice");
