namespace WarySentinel.Contract.Letters;

/// <summary>A letter; its text is not told.</summary>
/// <param name="Id">Its name.</param>
/// <param name="To">The e-mail address.</param>
/// <param name="Subject">The subject.</param>
/// <param name="Kind">What kind of letter it is.</param>
/// <param name="State"><c>waiting</c>, <c>sent</c>, <c>given-up</c>, <c>unclear</c> where nobody can know whether it went out, or
/// <c>returned</c> where a report said later that it reached nobody.</param>
/// <param name="CreatedAt">When it was written.</param>
/// <param name="SentAt">When it was sent.</param>
/// <param name="GivenUpAt">When it was given up.</param>
/// <param name="UnclearAt">Since when nobody can know.</param>
/// <param name="ReturnedAt">When a report said that it reached nobody.</param>
/// <param name="NextTryAt">When it is tried next.</param>
/// <param name="Tries">How often it was tried.</param>
/// <param name="Fault">What the mail server, or the way to it, said last.</param>
public sealed record LetterView(
    Guid Id, string To, string Subject, string Kind, string State, DateTimeOffset CreatedAt, DateTimeOffset? SentAt, DateTimeOffset? GivenUpAt,
    DateTimeOffset? UnclearAt, DateTimeOffset? ReturnedAt, DateTimeOffset? NextTryAt, int Tries, string? Fault);

/// <summary>One attempt to send a letter.</summary>
/// <param name="At">When it was begun.</param>
/// <param name="EndedAt">When its outcome was known.</param>
/// <param name="Outcome"><c>open</c>, <c>sent</c>, <c>failed</c> or <c>unclear</c>.</param>
/// <param name="Said">What the server said.</param>
/// <param name="Machine">Which machine made it.</param>
public sealed record LetterAttemptView(DateTimeOffset At, DateTimeOffset? EndedAt, string Outcome, string? Said, string Machine);

/// <summary>A letter with what was tried with it.</summary>
/// <param name="Letter">The letter.</param>
/// <param name="Attempts">The attempts, the newest first.</param>
public sealed record LetterHistory(LetterView Letter, IReadOnlyList<LetterAttemptView> Attempts);

/// <summary>How many letters are where.</summary>
/// <param name="Waiting">On their way.</param>
/// <param name="GivenUp">Given up.</param>
/// <param name="Unclear">Of which nobody can know.</param>
/// <param name="Sends">Whether a mail server is set.</param>
/// <param name="Held">Whether all letters wait, as the owner wants it.</param>
/// <param name="Returned">Reported to have reached nobody.</param>
/// <param name="ReportsReadAt">When the mailbox of reports was last read; null where none is set, or it never was.</param>
public sealed record OutboxView(int Waiting, int GivenUp, int Unclear, bool Sends, bool Held, int Returned, DateTimeOffset? ReportsReadAt);

/// <summary>An address that no letter reaches.</summary>
/// <param name="Address">The address.</param>
/// <param name="At">Since when that is known.</param>
/// <param name="Status">The enhanced status code (RFC 3463).</param>
/// <param name="Said">What its mail server said.</param>
public sealed record UnreachableView(string Address, DateTimeOffset At, string Status, string? Said);

/// <summary>What was read in a report (RFC 3464).</summary>
/// <param name="Marked">Addresses that no letter goes to from now on.</param>
/// <param name="Passing">Addresses that fail for now, and are not marked.</param>
/// <param name="Strange">Addresses of which it says so without naming a letter that went there; they are not marked.</param>
public sealed record BouncesView(IReadOnlyList<string> Marked, IReadOnlyList<string> Passing, IReadOnlyList<string> Strange);

/// <summary>One step of a test of the mail server, or one look at the sender's domain.</summary>
/// <param name="Step"><c>settings</c>, <c>connect</c>, <c>tls</c>, <c>login</c>, <c>sender</c>, <c>reports</c>, <c>spf</c>, <c>dkim</c> or
/// <c>dmarc</c>.</param>
/// <param name="State"><c>good</c>, <c>bad</c>, <c>warn</c> or <c>unknown</c>.</param>
/// <param name="Said">What was found.</param>
/// <param name="Mend">What to do; null where nothing is to be done.</param>
public sealed record MailStep(string Step, string State, string Said, string? Mend);

/// <summary>What a test of the mail server found.</summary>
/// <param name="Works">Whether letters can be sent.</param>
/// <param name="Steps">What was looked at.</param>
public sealed record MailTestView(bool Works, IReadOnlyList<MailStep> Steps);
