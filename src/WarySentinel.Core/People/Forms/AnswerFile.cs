namespace WarySentinel.Core.People.Forms;

/// <summary>A file that somebody sent with a form. It is kept apart from the web; staff are given it, and nobody else.</summary>
/// <param name="Id">Its own name, which is the answer of the field.</param>
/// <param name="Member">Whose it is.</param>
/// <param name="Field">The key of the field.</param>
/// <param name="Name">What it was called.</param>
/// <param name="Type">A name of <see cref="FileTypes.All"/>.</param>
/// <param name="Content">All of it.</param>
/// <param name="At">When it was sent.</param>
public sealed record AnswerFile(Guid Id, Guid Member, string Field, string Name, string Type, ReadOnlyMemory<byte> Content, DateTimeOffset At)
{
    /// <summary>Longest name, in characters.</summary>
    public const int LongestName = 120;

    /// <summary>Reads a file as it was sent, or says why it is not taken.</summary>
    /// <param name="field">The field it is for.</param>
    /// <param name="name">What it is called.</param>
    /// <param name="content">All of it.</param>
    /// <param name="now">Now.</param>
    public static Outcome<AnswerFile> Read(Field field, string name, byte[] content, DateTimeOffset now)
    {
        var called = Path.GetFileName(name.Replace('\\', '/'));
        if (content.LongLength > field.MostBytes)
        {
            return Problem.Of(ProblemKind.Invalid, "answer-file-large", field.MostBytes / 1024);
        }

        return called.Length is 0 or > LongestName || !PlainText.IsClean(called) ? Problem.Of(ProblemKind.Invalid, "answer-file-name", LongestName)
            : FileTypes.Of(called, content, field.Draft.Types) is { } type
                ? new AnswerFile(Guid.CreateVersion7(), Guid.Empty, field.Key, called, type, content, now)
                : Problem.Of(ProblemKind.Invalid, "answer-file-type", string.Join(", ", field.Draft.Types ?? FileTypes.All));
    }
}

/// <summary>Keeps a file.</summary>
public sealed record FileKept(AnswerFile File) : Change.OfPeople;
