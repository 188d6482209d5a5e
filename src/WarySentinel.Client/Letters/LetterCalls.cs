using WarySentinel.Contract;
using WarySentinel.Contract.Letters;

namespace WarySentinel.Client;

/// <summary>Letters.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Letters, newest first; in one state (<c>waiting</c>, <c>sent</c>, <c>given-up</c>) or all.</summary>
    public async Task<IReadOnlyList<LetterView>> LettersAsync(string? state, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<LetterView>>("letters?limit=200" + (state is null ? "" : "&state=" + Uri.EscapeDataString(state)),
            cancellationToken)).Value.Items;

    /// <summary>Puts a letter on its way again.</summary>
    public Task ResendLetterAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Post, $"letters/{id}/resend", null, null, cancellationToken);

    /// <summary>Drops a letter that is not sent.</summary>
    public Task DropLetterAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"letters/{id}", null, null, cancellationToken);
}
