/** A client of the published API with a cookie, as the demo's loader needs it. */
export class Client {
  private cookie = '';

  constructor(private readonly url: string) {}

  async call<T = unknown>(method: string, path: string, body?: unknown): Promise<T> {
    const response = await fetch(`${this.url}/api${path}`, {
      method,
      headers: {
        ...(this.cookie && { cookie: this.cookie }),
        ...(body !== undefined && { 'content-type': 'application/json' }),
      },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    const set = response.headers.getSetCookie()[0];
    if (set) this.cookie = set.split(';')[0]!;
    const answer = (await response.json()) as T & { error?: { code: string; message: string } };
    if (!response.ok)
      throw Object.assign(new Error(`${method} ${path}: ${answer.error?.message ?? response.status}`), {
        code: answer.error?.code,
        status: response.status,
      });
    return answer;
  }

  signIn(login: string, password: string): Promise<unknown> {
    return this.call('POST', '/session', { login, password });
  }
}
