import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import words from './en.json';

const source = join(import.meta.dirname, '../../../src');
const files = readdirSync(source, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('.cs') && !/(^|\/)(obj|bin)\//.test(f));

/** The actions that the service writes into the trail: the first words of an edit or of a note. */
const actions = new Set(
  files.flatMap((f) =>
    [
      ...readFileSync(join(source, f), 'utf8').matchAll(
        /(?:new Edit|new AuditNote|new)\((?:by, |Caller\.Of\(http\)\.Name, |[a-z.]+Name, )?"([a-z]+\.[a-z]+)",/g,
      ),
    ].map((m) => m[1] ?? ''),
  ),
);

describe('The words of changes', () => {
  it('are there for each action that is written down', () => {
    expect(actions).toContain('gate.add');
    expect(actions.size).toBeGreaterThan(15);
    // An edit that changes nothing is not written down.
    const silent = 'grant.same';
    expect([...actions].filter((a) => a !== silent && !(a.replace('.', '-') in words.history.actions))).toEqual([]);
  });
});
