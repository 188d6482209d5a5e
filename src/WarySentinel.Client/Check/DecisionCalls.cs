using WarySentinel.Contract.Check;

namespace WarySentinel.Client;

/// <summary>Decisions, and the catalogue through other eyes.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Asks a question.</summary>
    public async Task<DecisionView> MayAsync(Question question, CancellationToken cancellationToken) =>
        (await SendAsync<DecisionView>(HttpMethod.Post, "decisions/may", question, null, cancellationToken)).Value;

    /// <summary>Asks many questions, of a file in CSV or of JSON lines; an answer for each, in order.</summary>
    public IAsyncEnumerable<BulkLine> MayAsync(Stream file, bool csv, CancellationToken cancellationToken) =>
        LinesAsync<BulkLine>("decisions/bulk", Content(file, csv ? "text/csv" : "application/x-ndjson"), cancellationToken);

    /// <summary>Asks a question and why.</summary>
    public async Task<WhyView> WhyAsync(Question question, CancellationToken cancellationToken) =>
        (await SendAsync<WhyView>(HttpMethod.Post, "decisions/why", question, null, cancellationToken)).Value;

    /// <summary>The catalogue through a viewpoint.</summary>
    public async Task<SeenView> SeenAsync(string viewpoint, string? at, string? cursor, CancellationToken cancellationToken) =>
        (await GetAsync<SeenView>(
            $"seen?limit=1000&as={Uri.EscapeDataString(viewpoint)}{(at is null ? "" : "&at=" + Uri.EscapeDataString(at))}"
            + (cursor is null ? "" : "&cursor=" + cursor), cancellationToken)).Value;

    /// <summary>An address at which the live site is seen through a viewpoint, good for one use within two minutes.</summary>
    public async Task<OpenViewView> OpenViewAsync(string viewpoint, string? path, string? at, CancellationToken cancellationToken) =>
        (await SendAsync<OpenViewView>(HttpMethod.Post, "viewpoints/open", new OpenViewDraft(viewpoint, path, at), null, cancellationToken)).Value;
}
