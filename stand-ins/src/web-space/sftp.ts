import { constants, type Stats } from 'node:fs';
import { type FileHandle, mkdir, open, readdir, rename, rmdir, stat, unlink, utimes } from 'node:fs/promises';
import { join, posix } from 'node:path';
import ssh2, { type AuthContext, type Connection, type FileEntry, type Server, type SFTPWrapper } from 'ssh2';
import type { Login } from './site';

const { OPEN_MODE, STATUS_CODE } = ssh2.utils.sftp;

/** An SFTP host (draft-ietf-secsh-filexfer-02) over one folder, which nobody gets out of. */
export function sftpServer(folder: string, { user, password }: Login, privateKey: string): Server {
  return new ssh2.Server({ hostKeys: [privateKey] }, (client: Connection) => {
    client.on('error', () => {}); // a line that breaks is the client's business
    // Each answer is small, and the other side waits for it. The package's types do not tell that its server can do that, too.
    (client as Connection & { setNoDelay(on: boolean): void }).setNoDelay(true);
    client.on('authentication', (context: AuthContext) => {
      if (context.method === 'password' && context.username === user && context.password === password) context.accept();
      else context.reject(['password']);
    });
    client.on('session', (accept) => {
      accept().on('sftp', (acceptSftp) => serve(acceptSftp(), folder));
    });
  });
}

function serve(sftp: SFTPWrapper, root: string): void {
  const files = new Map<number, FileHandle>();
  const folders = new Map<number, FileEntry[]>();
  let last = 0;
  const at = (path: string): string => join(root, posix.join('/', path));
  const handleOf = (id: number): Buffer => {
    const handle = Buffer.alloc(4);
    handle.writeUInt32BE(id);
    return handle;
  };
  /** Answers a request by what an act comes to; one that gives nothing has gone well. */
  const answer = (id: number, act: () => Promise<unknown>): void => {
    act().then(
      (given) => given === undefined && sftp.status(id, STATUS_CODE.OK),
      (error: unknown) => {
        const known: Record<string, number> = { ENOENT: STATUS_CODE.NO_SUCH_FILE, EACCES: STATUS_CODE.PERMISSION_DENIED };
        const code = error instanceof Error && 'code' in error ? known[String(error.code)] : undefined;
        sftp.status(id, code ?? STATUS_CODE.FAILURE, String(error));
      },
    );
  };
  const told = true;
  const fileOf = (handle: Buffer): FileHandle => {
    const file = files.get(handle.readUInt32BE());
    if (!file) throw new Error('no such handle');
    return file;
  };

  sftp.on('OPEN', (id, path, flags) =>
    answer(id, async () => {
      const file = await open(at(path), modeOf(flags));
      files.set(++last, file);
      sftp.handle(id, handleOf(last));
      return told;
    }),
  );
  sftp.on('WRITE', (id, handle, offset, data) =>
    answer(id, async () => {
      await fileOf(handle).write(data, 0, data.length, offset);
    }),
  );
  sftp.on('READ', (id, handle, offset, length) =>
    answer(id, async () => {
      const { bytesRead, buffer } = await fileOf(handle).read(Buffer.alloc(length), 0, length, offset);
      if (bytesRead === 0) sftp.status(id, STATUS_CODE.EOF);
      else sftp.data(id, buffer.subarray(0, bytesRead));
      return told;
    }),
  );
  sftp.on('CLOSE', (id, handle) =>
    answer(id, async () => {
      const own = handle.readUInt32BE();
      await files.get(own)?.close();
      files.delete(own);
      folders.delete(own);
    }),
  );
  const tellStat = (id: number, look: () => Promise<Stats>) =>
    answer(id, async () => {
      sftp.attrs(id, attributes(await look()));
      return told;
    });
  sftp.on('STAT', (id, path) => tellStat(id, () => stat(at(path))));
  sftp.on('LSTAT', (id, path) => tellStat(id, () => stat(at(path))));
  sftp.on('FSTAT', (id, handle) => tellStat(id, () => fileOf(handle).stat()));
  sftp.on('SETSTAT', (id, path, { atime, mtime }) =>
    answer(id, async () => {
      if (atime !== undefined && mtime !== undefined) await utimes(at(path), atime, mtime);
    }),
  );
  sftp.on('FSETSTAT', (id) => sftp.status(id, STATUS_CODE.OK));
  sftp.on('OPENDIR', (id, path) =>
    answer(id, async () => {
      const names = await readdir(at(path));
      const entries = await Promise.all(
        names.map(async (filename) => ({ filename, longname: filename, attrs: attributes(await stat(join(at(path), filename))) })),
      );
      folders.set(++last, entries);
      sftp.handle(id, handleOf(last));
      return told;
    }),
  );
  sftp.on('READDIR', (id, handle) => {
    const own = handle.readUInt32BE();
    const entries = folders.get(own);
    folders.set(own, []);
    if (entries?.length) sftp.name(id, entries);
    else sftp.status(id, STATUS_CODE.EOF);
  });
  sftp.on('REMOVE', (id, path) => answer(id, () => unlink(at(path))));
  sftp.on('RMDIR', (id, path) => answer(id, () => rmdir(at(path))));
  sftp.on('MKDIR', (id, path) => answer(id, () => mkdir(at(path)).then(() => undefined)));
  sftp.on('RENAME', (id, from, to) =>
    answer(id, async () => {
      // By the draft, 6.5, a name that is taken is an error.
      const taken = await stat(at(to)).catch(() => null);
      if (taken) throw new Error('there is such a file');
      await rename(at(from), at(to));
    }),
  );
  sftp.on('REALPATH', (id, path) => {
    const filename = posix.join('/', path);
    sftp.name(id, [{ filename, longname: filename, attrs: attributes({ mode: 0, uid: 0, gid: 0, size: 0, atimeMs: 0, mtimeMs: 0 }) }]);
  });
  sftp.on('close', () => {
    for (const file of files.values()) void file.close().catch(() => {});
    files.clear();
  });
}

const attributes = ({ mode, uid, gid, size, atimeMs, mtimeMs }: Pick<Stats, 'mode' | 'uid' | 'gid' | 'size' | 'atimeMs' | 'mtimeMs'>) => ({
  mode,
  uid,
  gid,
  size,
  atime: Math.floor(atimeMs / 1000),
  mtime: Math.floor(mtimeMs / 1000),
});

/** How a file is opened, by the flags of the draft, 6.3. */
function modeOf(flags: number): number {
  const has = (flag: number) => (flags & flag) === flag;
  const access =
    has(OPEN_MODE.READ) && has(OPEN_MODE.WRITE) ? constants.O_RDWR : has(OPEN_MODE.WRITE) ? constants.O_WRONLY : constants.O_RDONLY;
  return (
    access |
    (has(OPEN_MODE.CREAT) ? constants.O_CREAT : 0) |
    (has(OPEN_MODE.TRUNC) ? constants.O_TRUNC : 0) |
    (has(OPEN_MODE.EXCL) ? constants.O_EXCL : 0) |
    (has(OPEN_MODE.APPEND) ? constants.O_APPEND : 0) |
    constants.O_NOFOLLOW
  );
}
