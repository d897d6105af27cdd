import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { freePort } from '../../../scripts/setup/free-port.mjs';

/** A server of Debian's, started for a test on ports of its own. */
export interface RealServer {
  ports: number[];
  /** Folder that it serves. */
  root: string;
  end(): Promise<void>;
}

const isRoot = process.getuid?.() === 0;

async function answers(port: number, child: ChildProcess): Promise<void> {
  for (let tries = 0; tries < 200; tries++) {
    if (child.exitCode !== null) throw new Error(`The server has ended (${child.exitCode}).`);
    const isOpen = await new Promise<boolean>((resolve) => {
      const socket = connect(port, '127.0.0.1', () => resolve(true));
      socket.once('error', () => resolve(false)).once('connect', () => socket.destroy());
    });
    if (isOpen) return;
    await wait(50);
  }
  throw new Error('The server does not answer.');
}

async function running(child: ChildProcess, ports: number[], root: string): Promise<RealServer> {
  for (const port of ports) await answers(port, child);
  const ended = new Promise((resolve) => child.once('exit', resolve));
  return {
    ports,
    root,
    end: async () => {
      child.kill('SIGTERM');
      await ended;
    },
  };
}

const newFolder = (name: string): string => {
  const folder = mkdtempSync(join(tmpdir(), `rundle-${name}-`));
  chmodSync(folder, 0o755);
  const root = join(folder, 'root');
  mkdirSync(root);
  chmodSync(root, 0o777); // Apache gives its rights up when root starts it
  return folder;
};

/** OpenSSH with its own SFTP, for whoever runs the test, by a key. */
export async function openSsh(): Promise<RealServer & { user: string; key: string; fingerprint: string }> {
  const folder = newFolder('sshd');
  const [port, root] = [await freePort(), join(folder, 'root')];
  for (const name of ['host', 'user']) execFileSync('/usr/bin/ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-f', join(folder, name)]);
  const config = [
    `Port ${port}`,
    'ListenAddress 127.0.0.1',
    `HostKey ${join(folder, 'host')}`,
    `PidFile ${join(folder, 'pid')}`,
    `AuthorizedKeysFile ${join(folder, 'user.pub')}`,
    'PermitRootLogin yes',
    'PasswordAuthentication no',
    'StrictModes no',
    // Without the rights of root it cannot ask the system, nor has it to.
    `UsePAM ${isRoot ? 'yes' : 'no'}`,
    `Subsystem sftp internal-sftp -d ${root}`,
  ];
  writeFileSync(join(folder, 'config'), `${config.join('\n')}\n`);
  if (isRoot) mkdirSync('/run/sshd', { recursive: true });
  const child = spawn('/usr/sbin/sshd', ['-D', '-e', '-f', join(folder, 'config')], { stdio: 'ignore' });
  const server = await running(child, [port], root);
  const fingerprint = execFileSync('/usr/bin/ssh-keygen', ['-lf', join(folder, 'host.pub')], { encoding: 'utf8' }).split(' ')[1]!;
  return { ...server, user: userInfo().username, key: readFileSync(join(folder, 'user'), 'utf8'), fingerprint };
}

/** Apache with WebDAV, with and without encryption under a certificate for which nobody vouches. */
export async function openApache(): Promise<RealServer & { user: string; password: string }> {
  const folder = newFolder('apache');
  const [plain, secure, root] = [await freePort(), await freePort(), join(folder, 'root')];
  const locks = join(folder, 'locks');
  mkdirSync(locks);
  chmodSync(locks, 0o777);
  const [user, password] = ['studio', 'quay wall'];
  writeFileSync(join(folder, 'users'), `${user}:{SHA}${createHash('sha1').update(password).digest('base64')}\n`);
  const certificate = [
    'req',
    '-x509',
    '-newkey',
    'rsa:2048',
    '-nodes',
    '-days',
    '2',
    '-subj',
    '/CN=localhost',
    '-addext',
    'subjectAltName=DNS:localhost',
  ];
  execFileSync('/usr/bin/openssl', [...certificate, '-keyout', join(folder, 'key.pem'), '-out', join(folder, 'cert.pem')], {
    stdio: 'ignore',
  });
  const modules = [
    'mpm_event',
    'authz_core',
    'authn_core',
    'authn_file',
    'authz_user',
    'auth_basic',
    'dav',
    'dav_fs',
    'ssl',
    'socache_shmcb',
  ];
  const config = [
    ...modules.map((name) => `LoadModule ${name}_module /usr/lib/apache2/modules/mod_${name}.so`),
    `ServerRoot ${folder}`,
    'ServerName localhost',
    `PidFile ${join(folder, 'pid')}`,
    `ErrorLog ${join(folder, 'errors')}`,
    `Mutex fcntl:${folder}`,
    `DavLockDB ${join(locks, 'db')}`,
    ...(isRoot ? ['User www-data', 'Group www-data'] : []),
    `Listen 127.0.0.1:${plain}`,
    `Listen 127.0.0.1:${secure}`,
    `DocumentRoot ${root}`,
    `<Directory ${root}>\n Dav On\n AuthType Basic\n AuthName quay\n AuthUserFile ${join(folder, 'users')}\n Require valid-user\n</Directory>`,
    `<VirtualHost 127.0.0.1:${secure}>\n SSLEngine on\n SSLCertificateFile ${join(folder, 'cert.pem')}\n SSLCertificateKeyFile ${join(folder, 'key.pem')}\n</VirtualHost>`,
  ];
  writeFileSync(join(folder, 'config'), `${config.join('\n')}\n`);
  const child = spawn('/usr/sbin/apache2', ['-f', join(folder, 'config'), '-DFOREGROUND'], { stdio: 'ignore' });
  return { ...(await running(child, [plain, secure], root)), user, password };
}
