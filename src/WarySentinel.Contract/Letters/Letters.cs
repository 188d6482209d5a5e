namespace WarySentinel.Contract.Letters;

/// <summary>A letter; its text is not told.</summary>
/// <param name="Id">Its name.</param>
/// <param name="To">The e-mail address.</param>
/// <param name="Subject">The subject.</param>
/// <param name="State"><c>waiting</c>, <c>sent</c> or <c>given-up</c>.</param>
/// <param name="CreatedAt">When it was written.</param>
/// <param name="SentAt">When it was sent.</param>
/// <param name="GivenUpAt">When it was given up.</param>
/// <param name="NextTryAt">When it is tried next.</param>
/// <param name="Tries">How often it was tried.</param>
/// <param name="Fault">What the mail server, or the way to it, said last.</param>
public sealed record LetterView(
    Guid Id, string To, string Subject, string State, DateTimeOffset CreatedAt, DateTimeOffset? SentAt, DateTimeOffset? GivenUpAt, DateTimeOffset? NextTryAt,
    int Tries, string? Fault);
