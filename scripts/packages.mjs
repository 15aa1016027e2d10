/** npm packages and the web build, made when missing or out of date. */
import { createHash } from 'node:crypto';
import {
  accessSync,
  constants,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { run, SetupError } from './postgres.mjs';

export const ROOT = fileURLToPath(new URL('..', import.meta.url));
const STATE = join(ROOT, '.oscillum');

const hashOf = (text) => createHash('sha256').update(text).digest('hex');

const isStamped = (name, value) => {
  const file = join(STATE, name);
  return existsSync(file) && readFileSync(file, 'utf8') === value;
};

function stamp(name, value) {
  if (isStamped(name, value)) return;
  mkdirSync(STATE, { recursive: true });
  writeFileSync(join(STATE, name), value);
}

/** Makes what is stamped otherwise. Throws the error of a checkout that cannot be written before anything is tried. */
function stamped(name, value, make) {
  if (isStamped(name, value)) return;
  accessSync(ROOT, constants.W_OK);
  make();
  stamp(name, value);
}

/** Installs npm packages when the lock file is not the one they were installed from. */
export function ensurePackages() {
  const lock = hashOf(readFileSync(join(ROOT, 'package-lock.json')));
  const present = existsSync(join(ROOT, 'node_modules', '.package-lock.json'));
  stamped('packages.stamp', present ? lock : lock + 'x', () => {
    if (present && !existsSync(join(STATE, 'packages.stamp'))) {
      // Installed by hand: believe npm's own record.
      if (run('npm', ['ls', '--all', '--silent'], { cwd: ROOT, stdio: 'ignore' }).status === 0) return;
    }
    console.log('Installing npm packages…');
    const install = () =>
      run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
        cwd: ROOT,
        stdio: ['ignore', 'inherit', 'inherit'],
      }).status === 0;
    // A half-removed folder (an install cut off, a program still reading it) fails once and works the second time.
    if (!install() && !install())
      throw new SetupError('npm packages could not be installed. Look at the lines above, then start again.');
  });
  stamp('packages.stamp', lock);
}

function listFiles(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((e) => {
    const path = join(folder, e.name);
    if (e.isDirectory()) return ['node_modules', 'dist', 'out'].includes(e.name) ? [] : listFiles(path);
    return [path];
  });
}

/** Builds the demo files and the web application when a source has changed since. */
export function ensureBuild() {
  const sources = ['core', 'demo', 'player', 'web'].flatMap((d) => listFiles(join(ROOT, d)));
  const value = hashOf(
    [join(ROOT, 'package-lock.json'), ...sources]
      .map((f) => `${f} ${statSync(f).size} ${statSync(f).mtimeMs}`)
      .join('\n'),
  );
  const built = existsSync(join(ROOT, 'web', 'dist', 'index.html'));
  stamped('build.stamp', built ? value : 'none', () => {
    console.log('Building…');
    const result = run('npm', ['run', '--silent', 'build'], {
      cwd: ROOT,
      stdio: ['ignore', 'ignore', 'inherit'],
    });
    if (result.status !== 0)
      throw new SetupError('The application could not be built. Look at the lines above.');
  });
  stamp('build.stamp', value);
}
