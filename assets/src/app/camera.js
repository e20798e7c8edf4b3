// The view through a camera.

// lookThrough has the camera look again, where it is in view.
// It waits a moment for the view to be there, not for a frame, which a tab behind others does not draw.
export const lookThrough = () => setTimeout(() => { const f = document.getElementById("camera-form"); if (f && f.offsetParent) window.htmx?.trigger(f, "redrawn"); }, 20);
document.addEventListener("reset", (e) => { if (e.target.id === "camera-form") setTimeout(() => { e.target.querySelectorAll("output").forEach((o) => { o.textContent = o.previousElementSibling.value + o.dataset.unit; }); lookThrough(); }); });
