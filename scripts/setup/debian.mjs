// @ts-check
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { stop } from './say.mjs';
import { ROOT } from './stale.mjs';

/** What is needed from Debian, and how to tell that it is there. */
const NEEDED = {
  postgresql: () => postgresFolder() !== null,
  'postgresql-client': () => existsSync('/usr/bin/pg_dump'),
  pgbouncer: () => existsSync('/usr/sbin/pgbouncer'),
  perl: () => existsSync('/usr/bin/perl') && existsSync('/usr/share/perl'),
  chromium: () => existsSync('/usr/bin/chromium'),
  'chromium-driver': () => existsSync('/usr/bin/chromedriver'),
  'libvips-tools': () => existsSync('/usr/bin/vipsthumbnail'),
  'libimage-exiftool-perl': () => existsSync('/usr/bin/exiftool'),
  'libjpeg-turbo-progs': () => existsSync('/usr/bin/djpeg') && existsSync('/usr/bin/cjpeg'),
  imagemagick: () => existsSync('/usr/bin/convert-im6.q16'),
  'mate-backgrounds': () => existsSync('/usr/share/backgrounds/mate/nature'),
  'liblcms2-utils': () => existsSync('/usr/bin/transicc'),
  'libjxl-tools': () => existsSync('/usr/bin/cjxl') && existsSync('/usr/bin/djxl'),
  libturbojpeg0: () => isLibrary('libturbojpeg.so.0'),
  libtiff6: () => isLibrary('libtiff.so.6'),
  'libheif-examples': () => existsSync('/usr/bin/heif-convert') && existsSync('/usr/bin/heif-info'),
  'poppler-utils': () => existsSync('/usr/bin/pdfinfo') && existsSync('/usr/bin/pdfimages'),
  curl: () => existsSync('/usr/bin/curl'),
  'desktop-file-utils': () => existsSync('/usr/bin/desktop-file-validate'),
  openssl: () => existsSync('/usr/bin/openssl'),
  'apache2-bin': () => existsSync('/usr/sbin/apache2'),
  'openssh-server': () => existsSync('/usr/sbin/sshd'),
  'icc-profiles-free': () => existsSync('/usr/share/color/icc/sRGB.icc'),
};

/**
 * Whether a library lies where Debian's libraries of this machine's kind do.
 * @param {string} file
 */
function isLibrary(file) {
  const folders = readdirSync('/usr/lib').filter((name) => name.endsWith('-linux-gnu'));
  return folders.some((folder) => existsSync(join('/usr/lib', folder, file)));
}

/** The folder of PostgreSQL's programs, newest version first, or null. */
export function postgresFolder() {
  const root = '/usr/lib/postgresql';
  if (!existsSync(root)) return null;
  const versions = readdirSync(root).sort((a, b) => Number(b) - Number(a));
  return versions.map((version) => `${root}/${version}/bin`).find((bin) => existsSync(`${bin}/initdb`)) ?? null;
}

/**
 * Installs what is missing from Debian's packages.
 * @param {(keyof typeof NEEDED)[]} packages
 */
export function installDebianPackages(packages) {
  const missing = packages.filter((name) => !NEEDED[name]());
  if (missing.length === 0) return;
  const by = `sudo apt-get install ${missing.join(' ')}`;
  if (!existsSync('/usr/bin/apt-get')) stop(`These programs are missing: ${missing.join(', ')}. Install them, then start again.`);
  if (process.getuid?.() !== 0) stop(`Debian packages are missing, and installing them needs root. Run this, then start again:\n  ${by}`);
  const said = install(missing);
  if (said !== null) stop(`The Debian packages could not be installed:\n${said}\nInstall them by hand, then start again:\n  ${by}`);
}

/**
 * Installs what is not needed but useful, where that is possible without asking; without it, what it is for is not offered. It is tried at
 * the first set-up only: without a network every start would wait for it.
 * @param {(keyof typeof NEEDED)[]} packages
 */
export function offerDebianPackages(packages) {
  if (existsSync(join(ROOT, 'node_modules'))) return;
  const missing = packages.filter((name) => !NEEDED[name]());
  if (missing.length === 0 || !existsSync('/usr/bin/apt-get') || process.getuid?.() !== 0) return;
  if (install(missing) !== null) process.stderr.write(`Not installed, and not needed: ${missing.join(', ')}.\n`);
}

/**
 * @param {(keyof typeof NEEDED)[]} missing
 * @returns {string | null} what was said when it failed
 */
function install(missing) {
  process.stderr.write(`Installing Debian packages: ${missing.join(', ')} ...\n`);
  if (missing.includes('postgresql')) keepDebianFromMakingACluster();
  const apt = (/** @type {string[]} */ ...args) =>
    spawnSync('apt-get', args, {
      stdio: ['ignore', 'ignore', 'pipe'],
      encoding: 'utf8',
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  apt('update', '-qq');
  const startAsBefore = missing.includes('openssh-server') ? keepServicesFromStarting() : () => {};
  const { status, stderr } = apt('install', '-y', '-qq', '--no-install-recommends', ...missing);
  startAsBefore();
  return status === 0 ? null : stderr.trim();
}

/**
 * Tests start a server of their own; that the machine lets people in from now on is not wanted (Debian Policy, 9.3.3.2: policy-rc.d).
 * @returns what to call when the packages are installed
 */
function keepServicesFromStarting() {
  const policy = '/usr/sbin/policy-rc.d';
  if (existsSync(policy)) return () => {};
  writeFileSync(policy, '#!/bin/sh\nexit 101\n', { mode: 0o755 });
  return () => {
    rmSync(policy, { force: true });
    spawnSync('systemctl', ['disable', 'ssh'], { stdio: 'ignore' });
  };
}

/** Rundle keeps a cluster of its own; the one that Debian would make and start is not wanted. */
function keepDebianFromMakingACluster() {
  const folder = '/etc/postgresql-common';
  const file = `${folder}/createcluster.conf`;
  mkdirSync(folder, { recursive: true });
  const before = existsSync(file) ? readFileSync(file, 'utf8') : '';
  if (!/^create_main_cluster/m.test(before)) writeFileSync(file, `${before}create_main_cluster = false\n`);
}
