/* The events of a run replayed through its steps, as the server does it: the current step, its
   start, the finished phases, and the arc time of the part of the seam before this step. */
window.arcReplay = (data) => {
  const ITSELF = { counted: "then", timed: "timedTo" };
  const EARLIER = { "arc-on": "strike", "arc-off": "off" };
  const steps = new Map(data.steps.map((step) => [step.key, step]));

  function weldedBefore(step, visits) {
    const part = step.key.slice(step.key.indexOf("-") + 1);
    return visits.filter((visit) => visit.step === "seam-" + part || visit.step === "taper-" + part).reduce((sum, visit) => sum + visit.end - visit.start, 0);
  }

  function led(step, signal, visits, lasted) {
    if (signal !== "off" || !step.part) { return step.led[signal] || ""; }
    const welded = weldedBefore(step, visits) + (step.phase === "seam" || step.phase === "taper" ? lasted : 0);
    if (!welded && step.led["off-unformed"]) { return step.led["off-unformed"]; }
    const limit = step.phase === "taper" ? data.shares.tapered : data.shares.ended;
    return step.led[welded >= limit * step.part ? "off" : "off-broken"];
  }

  function follow(step, key) {
    if (ITSELF[key]) { return step[ITSELF[key]]; }
    if (EARLIER[key]) { return step.led[EARLIER[key]] || ""; }
    return (step.keys.find((one) => one.key === key) || { to: "" }).to;
  }

  /* Events of several lists, each once, in order of time. */
  function merge(...lists) {
    const all = new Map();
    lists.flat().forEach((act) => { if (!all.has(act.id)) { all.set(act.id, act); } });
    return [...all.values()].sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1));
  }

  return (began, ...lists) => {
    const visits = [];
    let step = data.steps[0];
    let since = began;
    let aside = 0;
    merge(...lists).forEach((act) => {
      const at = Math.max(since, act.at);
      if (act.key === "back" && act.step === step.key && visits.length) {
        const undone = visits.pop();
        step = steps.get(undone.step);
        since = undone.start;
        return;
      }
      const signal = act.step === data.anyStep;
      const to = signal ? led(step, act.key, visits, at - since) : act.step === step.key ? follow(step, act.key) : "";
      if (!steps.has(to)) {
        aside += signal ? 0 : 1;
        return;
      }
      visits.push({ step: step.key, start: since, end: at, phase: step.phase });
      step = steps.get(to);
      since = at;
    });
    return { step, since, aside, done: new Set(visits.map((visit) => visit.phase)), back: visits.length > 0, welded: step.part ? weldedBefore(step, visits) : 0 };
  };
};
