using WarySentinel.Core.Letters;

namespace WarySentinel.Storage;

/// <summary>A letter that one machine has taken to send.</summary>
/// <param name="Id">Its name.</param>
/// <param name="Attempt">The name of this attempt.</param>
/// <param name="To">The e-mail address.</param>
/// <param name="Subject">The subject.</param>
/// <param name="Body">The sealed text.</param>
/// <param name="Kind">What kind of letter it is.</param>
/// <param name="Tries">How often it was tried, this time included.</param>
public sealed record WaitingMessage(Guid Id, Guid Attempt, string To, string Subject, string Body, string Kind, int Tries);

/// <summary>Where a letter is.</summary>
public enum LetterState
{
    /// <summary>On its way, or to be tried again.</summary>
    Waiting,
    /// <summary>Taken by the mail server.</summary>
    Sent,
    /// <summary>Tried often enough; nobody tries any more.</summary>
    GivenUp,
    /// <summary>
    /// The machine or the line broke while it was handed over: nobody can know whether it went out (RFC 5321 §6.1). The owner says what is to become of it.
    /// </summary>
    Unclear,
    /// <summary>Taken by the mail server; later a report said that it reached nobody (RFC 3464).</summary>
    Returned,
}

/// <summary>What came of an attempt.</summary>
public enum AttemptOutcome
{
    /// <summary>It is being made, or the machine that made it is gone before it handed anything over.</summary>
    Open,
    /// <summary>The server took the letter.</summary>
    Sent,
    /// <summary>The server did not take it, or was not reached.</summary>
    Failed,
    /// <summary>Nobody can know.</summary>
    Unclear,
}

/// <summary>One attempt to send a letter.</summary>
/// <param name="At">When it was begun.</param>
/// <param name="EndedAt">When its outcome was known.</param>
/// <param name="Outcome">What came of it.</param>
/// <param name="Said">What the server said.</param>
/// <param name="Machine">Which machine made it.</param>
public sealed record LetterAttempt(DateTimeOffset At, DateTimeOffset? EndedAt, AttemptOutcome Outcome, string? Said, string Machine);

/// <summary>A letter as the owner sees it; its text is not told.</summary>
public sealed record MessageState(
    Guid Id, string To, string Subject, string Kind, Urgency Urgency, DateTimeOffset CreatedAt, DateTimeOffset? SentAt, DateTimeOffset? GivenUpAt,
    DateTimeOffset? UnclearAt, DateTimeOffset? ReturnedAt, DateTimeOffset? NextTryAt, int Tries, string? Fault)
{
    /// <summary>Where it is.</summary>
    public LetterState State => ReturnedAt is not null ? LetterState.Returned : SentAt is not null ? LetterState.Sent : GivenUpAt is not null
        ? LetterState.GivenUp
        : UnclearAt is not null ? LetterState.Unclear : LetterState.Waiting;

    /// <summary>The same, as it is told.</summary>
    public string StateName => NameOf(State);

    /// <summary>A state as it is told.</summary>
    public static string NameOf(LetterState state) => state switch
    {
        LetterState.Sent => "sent",
        LetterState.GivenUp => "given-up",
        LetterState.Unclear => "unclear",
        LetterState.Returned => "returned",
        _ => "waiting",
    };
}

/// <summary>An address that no letter reaches.</summary>
/// <param name="Address">The address.</param>
/// <param name="At">Since when that is known.</param>
/// <param name="Status">The enhanced status code (RFC 3463).</param>
/// <param name="Said">What the mail server of the address said.</param>
public sealed record UnreachableAddress(string Address, DateTimeOffset At, string Status, string? Said);
