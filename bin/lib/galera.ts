/**
 * A MariaDB Galera cluster on loopback for the tests: each node with a folder of its own, in it its data, socket and log.
 * The timeouts are short, so that a node that is killed holds the others up for seconds only, and long enough that one that
 * waits for its turn on a busy machine is not taken for dead.
 */
import { type ChildProcess, execFileSync, spawn, spawnSync } from 'node:child_process';
import { chownSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { createConnection, type RowDataPacket } from 'mysql2/promise';
import { forTests } from './mariadb.ts';
import { freePort } from './ports.ts';

const PROVIDER = '/usr/lib/galera/libgalera_smm.so';
const READY_WITHIN_MS = 180_000;
/** A node that gives up while it joins (its state's transfer was cut off) is started again, as whoever supervises it would. */
const TRIES = 3;
const NAME = 'rawbits';
const PASSWORD = 'only-for-tests';
const TIMEOUTS =
  'evs.keepalive_period=PT0.3S;evs.join_retrans_period=PT0.3S;evs.inactive_check_period=PT0.2S;evs.suspect_timeout=PT5S;evs.inactive_timeout=PT8S;evs.install_timeout=PT8S';

interface Ports {
  sql: number;
  group: number;
  incremental: number;
  transfer: number;
}

export interface ClusterNode {
  /** mysql://… of this node alone. */
  url: string;
  host: string;
  /** Kills it without warning. */
  kill(): Promise<void>;
  /** Starts it again where it was killed; it rejoins. */
  restart(): Promise<void>;
  /** Stops it in its tracks, as a lost line would, and lets it go on. */
  freeze(): void;
  thaw(): void;
}

export interface Cluster {
  nodes: ClusterNode[];
  stop(): Promise<void>;
}

/** The database's programs do not run as root: its transfer of a state drops to nobody and fails. */
const runner = (): { user: string; uid?: number; gid?: number } => {
  if (userInfo().uid !== 0) return { user: userInfo().username };
  const id = (flag: string) => Number(execFileSync('id', [flag, 'mysql'], { encoding: 'utf8' }));
  return { user: 'mysql', uid: id('-u'), gid: id('-g') };
};

class Node implements ClusterNode {
  private child?: ChildProcess;

  constructor(
    private readonly folder: string,
    private readonly name: string,
    private readonly ports: Ports,
    private readonly members: string,
  ) {}

  get host(): string {
    return `127.0.0.1:${this.ports.sql}`;
  }

  get url(): string {
    return `mysql://${NAME}:${PASSWORD}@${this.host}/${NAME}`;
  }

  private get file(): string {
    return join(this.folder, 'my.cnf');
  }

  /** Makes its folders; the first node's data, too: the others get theirs from it. */
  make(first: boolean): void {
    const { user, uid, gid } = runner();
    const [data, temporary] = [join(this.folder, 'data'), join(this.folder, 'temporary')];
    for (const folder of [this.folder, data, temporary]) {
      mkdirSync(folder, { recursive: true, mode: 0o755 });
      if (uid !== undefined) chownSync(folder, uid, gid!);
    }
    if (first)
      execFileSync(
        'mariadb-install-db',
        [
          '--no-defaults',
          `--user=${user}`,
          `--datadir=${data}`,
          '--skip-test-db',
          '--auth-root-authentication-method=normal',
        ],
        { stdio: 'ignore', cwd: this.folder },
      );
    const { sql, group, incremental, transfer } = this.ports;
    writeFileSync(
      this.file,
      `[mariadbd]
user=${user}
datadir=${data}
tmpdir=${temporary}
socket=${join(this.folder, 's')}
pid-file=${join(this.folder, 'pid')}
log-error=${join(this.folder, 'log.err')}
port=${sql}
bind-address=127.0.0.1
skip-name-resolve
character-set-server=utf8mb4
performance-schema=OFF
${forTests() ? 'innodb-flush-method=nosync\n' : ''}max-connections=100
binlog-format=ROW
innodb-autoinc-lock-mode=2
innodb-flush-log-at-trx-commit=1
innodb-buffer-pool-size=64M
wsrep-on=ON
wsrep-provider=${PROVIDER}
wsrep-cluster-name=rawbits
wsrep-cluster-address=gcomm://${this.members}
wsrep-node-name=${this.name}
wsrep-node-address=127.0.0.1
wsrep-node-incoming-address=127.0.0.1:${sql}
wsrep-sst-method=rsync
wsrep-sst-receive-address=127.0.0.1:${transfer}
wsrep-provider-options="base_host=127.0.0.1;base_port=${group};gmcast.listen_addr=tcp://127.0.0.1:${group};ist.recv_addr=127.0.0.1:${incremental};ist.recv_bind=127.0.0.1:${incremental};gcache.size=32M;pc.recovery=true;${TIMEOUTS}"
`,
      { mode: 0o644 },
    );
  }

  run(...options: string[]): void {
    this.child = spawn('/usr/sbin/mariadbd', [`--defaults-file=${this.file}`, ...options], { stdio: 'ignore' });
  }

  /** Waits until it is a synced member. */
  async synced(root = false): Promise<void> {
    const until = Date.now() + READY_WITHIN_MS;
    for (;;) {
      try {
        const connection = await createConnection(
          root ? { socketPath: join(this.folder, 's'), user: 'root' } : { uri: this.url, connectTimeout: 1000 },
        );
        try {
          const [rows] = await connection.query<RowDataPacket[]>("SHOW STATUS LIKE 'wsrep_local_state_comment'");
          if (rows[0]?.Value === 'Synced') return;
        } finally {
          connection.destroy();
        }
      } catch {
        // Not there yet.
      }
      if (Date.now() > until || this.ended) throw new Error(`The node ${this.name} did not join:\n${this.logTail()}`);
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  }

  private get ended(): boolean {
    return this.child !== undefined && (this.child.exitCode !== null || this.child.signalCode !== null);
  }

  /** What it complained of, and the last of what it said. */
  private logTail(): string {
    const file = join(this.folder, 'log.err');
    if (!existsSync(file)) return '';
    const lines = readFileSync(file, 'utf8').split('\n');
    const complaints = lines.slice(0, -25).filter((line) => /\[(ERROR|Warning)\]/.test(line));
    return [...complaints.slice(-25), ...lines.slice(-25)].join('\n');
  }

  async makeDatabase(): Promise<void> {
    const connection = await createConnection({ socketPath: join(this.folder, 's'), user: 'root' });
    for (const sql of [
      `CREATE DATABASE ${NAME} CHARACTER SET utf8mb4`,
      `CREATE USER '${NAME}'@'127.0.0.1' IDENTIFIED BY '${PASSWORD}'`,
      `GRANT ALL ON \`${NAME}%\`.* TO '${NAME}'@'127.0.0.1'`,
    ])
      await connection.query(sql);
    connection.destroy();
  }

  async kill(): Promise<void> {
    await this.end('SIGKILL');
  }

  async end(signal: 'SIGKILL' | 'SIGTERM'): Promise<void> {
    const { child } = this;
    if (!child || this.ended) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill(signal);
    await ended;
  }

  async restart(): Promise<void> {
    const { stderr } = spawnSync(
      '/usr/sbin/mariadbd',
      [`--defaults-file=${this.file}`, '--log-error=/dev/stderr', '--wsrep-recover'],
      { encoding: 'utf8' },
    );
    const said = stderr + readFileSync(join(this.folder, 'log.err'), 'utf8');
    const position = /Recovered position:? *([0-9a-f-]+:-?\d+)/g;
    const last = [...said.matchAll(position)].at(-1)?.[1];
    for (let tries = 1; ; tries++) {
      this.run(...(last ? [`--wsrep-start-position=${last}`] : []));
      try {
        return await this.synced();
      } catch (error) {
        if (tries === TRIES || !this.ended) throw error;
      }
    }
  }

  freeze(): void {
    this.child?.kill('SIGSTOP');
  }

  thaw(): void {
    this.child?.kill('SIGCONT');
  }
}

/** Starts a cluster of `size` nodes below `folder`; throws with the end of a node's log. */
export async function startCluster(folder: string, size = 3): Promise<Cluster> {
  if (!existsSync(PROVIDER)) throw new Error(`The package galera-4 is missing (${PROVIDER}).`);
  const ports: Ports[] = [];
  for (let i = 0; i < size; i++)
    ports.push({
      sql: await freePort(),
      group: await freePort(),
      incremental: await freePort(),
      transfer: await freePort(),
    });
  const members = ports.map(({ group }) => `127.0.0.1:${group}`).join(',');
  const nodes = ports.map((own, i) => new Node(join(folder, `n${i + 1}`), `n${i + 1}`, own, members));
  const stop = async () => {
    for (const node of nodes) node.thaw();
    for (const node of [...nodes].reverse()) await node.end('SIGKILL');
  };
  try {
    for (const [i, node] of nodes.entries()) node.make(i === 0);
    nodes[0]!.run('--wsrep-new-cluster');
    await nodes[0]!.synced(true);
    await nodes[0]!.makeDatabase();
    for (const node of nodes.slice(1)) node.run();
    await Promise.all(nodes.slice(1).map((node) => node.synced()));
  } catch (error) {
    await stop();
    throw error;
  }
  return { nodes, stop };
}
