namespace WarySentinel.Core;

/// <summary>What class of refusal a <see cref="Problem"/> is; each surface maps it to its own status.</summary>
public enum ProblemKind
{
    /// <summary>The input breaks a rule; nothing was stored.</summary>
    Invalid,

    /// <summary>The thing named does not exist.</summary>
    NotFound,

    /// <summary>The thing named exists already, or is still in use.</summary>
    Conflict,

    /// <summary>Somebody else changed it since it was read.</summary>
    Stale,

    /// <summary>The caller may not do this.</summary>
    Forbidden,

    /// <summary>Too many tries; wait and come back.</summary>
    TooMany,

    /// <summary>The input is larger than is taken.</summary>
    TooLarge,

    /// <summary>The input took too long to come.</summary>
    Slow,

    /// <summary>There is no room left to store anything.</summary>
    Full,

    /// <summary>The store does not answer; what can be told without it is told.</summary>
    Silent,

    /// <summary>A fault of our own.</summary>
    Broken,
}

/// <summary>One located fault of an input.</summary>
/// <param name="Field">The field or CSV column it is about.</param>
/// <param name="Message">What is wrong and what to do, still to be worded.</param>
/// <param name="Line">Line of the file, from 1, where there is one.</param>
/// <param name="Column">Column, from 1: a character of an expression or a column of a file.</param>
public sealed record Fault(string Field, Wording Message, int? Line = null, int? Column = null);

/// <summary>An expected refusal, as a value: a stable code for programs and a sentence for people, still to be worded.</summary>
public sealed record Problem(ProblemKind Kind, string Code, Wording Detail, IReadOnlyList<Fault> Faults)
{
    /// <summary>A problem worded by the resource entry of the same code.</summary>
    public static Problem Of(ProblemKind kind, string code, params object?[] values) =>
        new(kind, code, Wording.Of("problem." + code, values), []);

    /// <summary>A problem that lies in one field.</summary>
    public static Problem In(string field, string code, params object?[] values)
    {
        var said = Wording.Of("problem." + code, values);
        return new(ProblemKind.Invalid, code, said, [new Fault(field, said)]);
    }
}

/// <summary>Either a value or the problem that kept it from being.</summary>
public readonly struct Outcome<T>
{
    private readonly T? value;

    private Outcome(T? value, Problem? problem) => (this.value, Problem) = (value, problem);

    /// <summary>The problem, or null when there is a value.</summary>
    public Problem? Problem { get; }

    /// <summary>Whether there is a value.</summary>
    public bool IsGood => Problem is null;

    /// <summary>The value. Throws <see cref="InvalidOperationException"/> when there is a problem instead.</summary>
    public T Value => Problem is null ? value! : throw new InvalidOperationException(Problem.Detail.ToString());

    /// <summary>Takes one of two ways.</summary>
    public TOut Match<TOut>(Func<T, TOut> good, Func<Problem, TOut> bad) => Problem is null ? good(value!) : bad(Problem);

    /// <summary>A good outcome.</summary>
    public static implicit operator Outcome<T>(T value) => new(value, null);

    /// <summary>A refusal.</summary>
    public static implicit operator Outcome<T>(Problem problem) => new(default, problem);
}
