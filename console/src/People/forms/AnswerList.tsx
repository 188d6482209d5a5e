import type { Schemas } from '../../api/client';

/** What somebody answered, a line each; a file is there to be kept. */
export function AnswerList({ member, answers }: { member: string; answers: Schemas['AnswerView'][] }) {
  return (
    <dl className="answers">
      {answers.map((one) => (
        <div key={one.field}>
          <dt>{one.label}</dt>
          <dd>
            {one.file ? (
              <a href={`/api/v1/members/${member}/files/${one.file.id}`} download>
                {one.words}
              </a>
            ) : (
              one.words
            )}
          </dd>
        </div>
      ))}
    </dl>
  );
}
