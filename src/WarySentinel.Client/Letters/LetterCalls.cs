namespace WarySentinel.Client;

/// <summary>A letter on its way, sent or given up; its text is not told.</summary>
public sealed record Letter(
    Guid Id, string To, string Subject, string State, DateTimeOffset CreatedAt, DateTimeOffset? SentAt, DateTimeOffset? GivenUpAt, DateTimeOffset? NextTryAt,
    int Tries, string? Fault);

/// <summary>Letters.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Letters, newest first; in one state (<c>waiting</c>, <c>sent</c>, <c>given-up</c>) or all.</summary>
    public async Task<IReadOnlyList<Letter>> LettersAsync(string? state, CancellationToken stop) =>
        (await GetAsync<PageOf<Letter>>("letters?limit=200" + (state is null ? "" : "&state=" + Uri.EscapeDataString(state)), stop)).Value.Items;

    /// <summary>Puts a letter on its way again.</summary>
    public Task ResendLetterAsync(Guid id, CancellationToken stop) => SendAsync<object>(HttpMethod.Post, $"letters/{id}/resend", null, null, stop);

    /// <summary>Drops a letter that is not sent.</summary>
    public Task DropLetterAsync(Guid id, CancellationToken stop) => SendAsync<object>(HttpMethod.Delete, $"letters/{id}", null, null, stop);
}
