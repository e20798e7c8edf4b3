// htmx writes each request that does not end well to the console. One that was given up because somebody went on is no error,
// and what the server has against a form stands on the page: neither is for the console.

const givenUp = (name, detail) => ["htmx:afterRequest", "htmx:sendAbort"].includes(name) && detail.xhr?.status === 0;
const answered = (name, detail) => name === "htmx:responseError" && detail.xhr.status < 500;

// htmx tells its logger first, and then the console whatever still has an error.
htmx.logger = (_, name, detail) => {
  if (detail?.error && (givenUp(name, detail) || answered(name, detail))) delete detail.error;
};
