using System.Net.Http.Json;
using WarySentinel.Contract;
using WarySentinel.Contract.SetUp;

namespace WarySentinel.Client;

/// <summary>The site in one step.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The answers that would make the site as it is.</summary>
    public async Task<SetUpAsked> SetUpAsync(CancellationToken cancellationToken) => (await GetAsync<SetUpAsked>("setup", cancellationToken)).Value;

    /// <summary>What the site's front page says of it.</summary>
    public async Task<FoundSiteView> FoundSiteAsync(CancellationToken cancellationToken) =>
        (await GetAsync<FoundSiteView>("setup/site", cancellationToken)).Value;

    /// <summary>Makes the site of the answers, or only says what that would change.</summary>
    public async Task<SetUpOutcome> MakeSetUpAsync(SetUpDraft draft, bool dryRun, long? revision, CancellationToken cancellationToken) =>
        (await SendAsync<SetUpOutcome>(
            HttpMethod.Post, $"setup?dryRun={(dryRun ? "true" : "false")}{(revision is null ? "" : $"&revision={revision}")}", draft, null,
            cancellationToken)).Value;

    /// <summary>Tries the site as its visitors meet it.</summary>
    public IAsyncEnumerable<SetUpCheckLine> CheckSetUpAsync(CancellationToken cancellationToken) =>
        LinesAsync<SetUpCheckLine>("setup/check", JsonContent.Create(new { }), cancellationToken);

    /// <summary>Sends a letter that proves that letters arrive.</summary>
    public Task SendSetUpLetterAsync(string? to, CancellationToken cancellationToken) =>
        SendAsync<object?>(HttpMethod.Post, "setup/letter", new SetUpLetterDraft(to), null, cancellationToken);
}
