/** A client of the published API with a cookie, as the demo's loader needs it: it asks by the API's own routes. */
import { type Answer, addressOf, type Body, type Params, type Route, sessionApi } from '@rawbits/api';

export class Client {
  private cookie = '';

  constructor(private readonly url: string) {}

  /** Asks a route; a failure is thrown with its code and status. */
  async ask<T extends Route>(route: T, params: Params<T>, body?: Body<T>): Promise<Answer<T>> {
    const path = addressOf(route, params);
    const response = await fetch(`${this.url}/api${path}`, {
      method: route.method.toUpperCase(),
      headers: {
        ...(this.cookie && { cookie: this.cookie }),
        ...(body !== undefined && { 'content-type': 'application/json' }),
      },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    const set = response.headers.getSetCookie()[0];
    if (set) this.cookie = set.split(';')[0]!;
    const answer = (await response.json()) as Answer<T> & { error?: { code: string; message: string } };
    if (!response.ok)
      throw Object.assign(new Error(`${route.method} ${path}: ${answer.error?.message ?? response.status}`), {
        code: answer.error?.code,
        status: response.status,
      });
    return answer;
  }

  signIn(login: string, password: string): Promise<unknown> {
    return this.ask(sessionApi.signIn, {}, { login, password });
  }
}
