'use strict';

class Router {
  constructor() {
    this.routes = [];
    this.steps = [];
  }

  get(path, ...steps) { return this.add('GET', path, steps); }
  post(path, ...steps) { return this.add('POST', path, steps); }
  del(path, ...steps) { return this.add('DELETE', path, steps); }

  before(step) {
    this.steps.push(step);
    return this;
  }

  add(method, path, steps) {
    const names = [];
    const source = path.replace(/:(\w+)/g, (_, name) => { names.push(name); return '([^/]+)'; });
    this.routes.push({ method, pattern: new RegExp(`^${source}$`), names, steps: [...this.steps, ...steps] });
    return this;
  }

  async handle(ctx) {
    for (const route of this.routes) {
      if (route.method !== ctx.method) continue;
      const match = route.pattern.exec(ctx.path);
      if (!match) continue;
      ctx.params = Object.fromEntries(route.names.map((name, i) => [name, decodeURIComponent(match[i + 1])]));
      for (const step of route.steps) {
        if (ctx.done) return;
        await step(ctx);
      }
      return;
    }
    ctx.fail(404, 'not found');
  }
}

module.exports = { Router };
