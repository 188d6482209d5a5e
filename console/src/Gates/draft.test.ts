import { describe, expect, it } from 'vitest';
import { sightOf } from '../Access/Mark';
import type { Gate } from '../api/client';
import { anyOf, draftOf, fresh, toggled } from './draft';

describe('an audience as a list', () => {
  it('reads a plain any-of list', () => {
    expect(anyOf('role:dealer or group:schools or signed-in')).toEqual(['role:dealer', 'group:schools', 'signed-in']);
    expect(anyOf(' password ')).toEqual(['password']);
  });

  it('leaves everything else to the text', () => {
    for (const more of ['role:a and role:b', 'not guest', '(role:a or role:b)', 'role:a or not guest', '']) {
      expect(anyOf(more)).toBeNull();
    }
  });

  it('puts atoms in and takes them out', () => {
    expect(toggled(['role:a'], 'password', true)).toBe('role:a or password');
    expect(toggled(['role:a', 'password'], 'role:a', false)).toBe('password');
  });

  it('never leaves an empty expression: nobody may, rather than a mistake', () => {
    expect(toggled(['role:a'], 'role:a', false)).toBe('nobody');
    expect(toggled(['nobody'], 'role:a', true)).toBe('role:a');
    expect(toggled(['role:a', 'role:b'], 'anyone', true)).toBe('anyone');
  });
});

describe('a draft', () => {
  it('says what its gate says and no more', () => {
    const gate = {
      ...fresh,
      key: 'g',
      title: 'G',
      covers: ['site'],
      version: 3,
      sentence: 's',
      parts: [],
      inForce: true,
    } as unknown as Gate;
    expect(draftOf(gate)).toEqual({ ...fresh, key: 'g', title: 'G', covers: ['site'] });
  });
});

describe('a cell', () => {
  it('is in part where something beneath differs', () => {
    expect(sightOf('open+part')).toBe('part');
    expect(sightOf('hidden')).toBe('hidden');
  });
});
