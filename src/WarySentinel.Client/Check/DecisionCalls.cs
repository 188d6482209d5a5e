namespace WarySentinel.Client;

/// <summary>A question: may this visitor do this act on this item or path?</summary>
public sealed record Question(string? Visitor, string? Act, string? Item, string? Path, string? At);

/// <summary>A line of the answer to many questions.</summary>
public sealed record BulkAnswer(
    int Line, string? Visitor, string? Act, string? What, string? At, bool? Allowed, string? Answer, string? Gate, string? Code, string? Detail);

/// <summary>The outcome of a question.</summary>
public sealed record Decision(bool Allowed, IReadOnlyList<string> Items, string? Answer, string? Gate);

/// <summary>One step of an explanation.</summary>
public sealed record ExplanationStep(string? Gate, string Title, string Way, string? Sentence, string Verdict, bool? Admitted);

/// <summary>The outcome of a question, told as a person would.</summary>
public sealed record Why(
    bool Allowed, string Who, string What, string Act, string Headline, IReadOnlyList<ExplanationStep> Steps, IReadOnlyList<string> Opens, string Meets,
    string? Answer, string? Gate);

/// <summary>An item as a viewpoint sees it.</summary>
public sealed record SeenItem(string Item, string Title, string Kind, string Sight, IReadOnlyList<string> Parents, string? Address);

/// <summary>The catalogue as a viewpoint sees it.</summary>
public sealed record Seen(string Who, int Open, int Listed, int Hidden, IReadOnlyList<SeenItem> Items, string? Next);

/// <summary>The address at which the live site is seen through a viewpoint.</summary>
public sealed record OpenedView(string Url);

/// <summary>Decisions, and the catalogue through other eyes.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Asks a question.</summary>
    public async Task<Decision> MayAsync(Question question, CancellationToken stop) =>
        (await SendAsync<Decision>(HttpMethod.Post, "decisions/may", question, null, stop)).Value;

    /// <summary>Asks many questions, of a file in CSV or of JSON lines; an answer for each, in order.</summary>
    public IAsyncEnumerable<BulkAnswer> MayAsync(Stream file, bool csv, CancellationToken stop) =>
        LinesAsync<BulkAnswer>("decisions/bulk", Content(file, csv ? "text/csv" : "application/x-ndjson"), stop);

    /// <summary>Asks a question and why.</summary>
    public async Task<Why> WhyAsync(Question question, CancellationToken stop) =>
        (await SendAsync<Why>(HttpMethod.Post, "decisions/why", question, null, stop)).Value;

    /// <summary>The catalogue through a viewpoint.</summary>
    public async Task<Seen> SeenAsync(string viewpoint, string? at, string? cursor, CancellationToken stop) =>
        (await GetAsync<Seen>(
            $"seen?limit=1000&as={Uri.EscapeDataString(viewpoint)}{(at is null ? "" : "&at=" + Uri.EscapeDataString(at))}"
            + (cursor is null ? "" : "&cursor=" + cursor), stop)).Value;

    /// <summary>An address at which the live site is seen through a viewpoint, good for one use within two minutes.</summary>
    public async Task<OpenedView> OpenViewAsync(string viewpoint, string? path, string? at, CancellationToken stop) =>
        (await SendAsync<OpenedView>(HttpMethod.Post, "viewpoints/open",
            new Dictionary<string, object?> { ["as"] = viewpoint, ["path"] = path, ["at"] = at }, null, stop)).Value;
}
