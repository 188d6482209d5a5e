using WarySentinel.Contract;
using WarySentinel.Contract.Letters;

namespace WarySentinel.Client;

/// <summary>Letters, their words, and the way that they go.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Letters, newest first; in one state (<c>waiting</c>, <c>sent</c>, <c>given-up</c>, <c>unclear</c>) or all.</summary>
    /// <param name="state">The state, or null.</param>
    /// <param name="to">Only those to an address; null for all.</param>
    /// <param name="kind">Only those of some kinds, such as <c>shared-password</c>, with commas between; null for all.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<LetterView>> LettersAsync(
        string? state, string? to, string? kind, CancellationToken cancellationToken)
    {
        var asked = string.Concat(new[] { ("state", state), ("to", to), ("kind", kind) }.Where(q => q.Item2 is not null)
            .Select(q => $"&{q.Item1}={Uri.EscapeDataString(q.Item2!)}"));
        return (await GetAsync<PageOf<LetterView>>("letters?limit=200" + asked, cancellationToken)).Value.Items;
    }

    /// <summary>A letter with what was tried.</summary>
    public async Task<LetterHistory> LetterAsync(Guid id, CancellationToken cancellationToken) =>
        (await GetAsync<LetterHistory>($"letters/{id}", cancellationToken)).Value;

    /// <summary>How many letters are where.</summary>
    public async Task<OutboxView> OutboxAsync(CancellationToken cancellationToken) => (await GetAsync<OutboxView>("letters/outbox", cancellationToken)).Value;

    /// <summary>Puts a letter on its way again.</summary>
    public Task ResendLetterAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Post, $"letters/{id}/resend", null, null, cancellationToken);

    /// <summary>Says of an unclear letter that it went out.</summary>
    public Task LetterWentOutAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Post, $"letters/{id}/sent", null, null, cancellationToken);

    /// <summary>Drops a letter that is not sent.</summary>
    public Task DropLetterAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"letters/{id}", null, null, cancellationToken);

    /// <summary>Tries the mail server.</summary>
    public async Task<MailTestView> TestMailAsync(CancellationToken cancellationToken) =>
        (await SendAsync<MailTestView>(HttpMethod.Post, "letters/server-test", null, null, cancellationToken)).Value;

    /// <summary>Addresses that no letter reaches.</summary>
    public async Task<IReadOnlyList<UnreachableView>> UnreachableAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<UnreachableView>>("letters/unreachable?limit=1000", cancellationToken)).Value.Items;

    /// <summary>Lets letters to an address go again.</summary>
    public Task ReachableAsync(string address, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"letters/unreachable/{Uri.EscapeDataString(address)}", null, null, cancellationToken);

    /// <summary>Hands a report on of a letter that reached nobody (RFC 3464).</summary>
    public async Task<BouncesView> BouncedAsync(Stream report, CancellationToken cancellationToken)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, "letters/bounces") { Content = Content(report, "message/rfc822") };
        using var response = await http.SendAsync(request, cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
        return (await System.Net.Http.Json.HttpContentJsonExtensions.ReadFromJsonAsync<BouncesView>(response.Content, ApiJson.Options, cancellationToken))!;
    }

    /// <summary>The kinds of letters.</summary>
    public async Task<IReadOnlyList<LetterKindView>> LetterKindsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<LetterKindView>>("letter-templates", cancellationToken)).Value.Items;

    /// <summary>The template of a letter in a language, with its entity tag.</summary>
    public Task<(LetterTemplateView Value, string? Tag)> LetterTemplateAsync(string kind, string language, CancellationToken cancellationToken) =>
        GetAsync<LetterTemplateView>(Template(kind, language), cancellationToken);

    /// <summary>Stores the owner's words for a letter.</summary>
    public async Task<LetterTemplateView> SetLetterTemplateAsync(
        string kind, string language, LetterTemplateDraft draft, string tag, CancellationToken cancellationToken) =>
        (await SendAsync<LetterTemplateView>(HttpMethod.Put, Template(kind, language), draft, tag, cancellationToken)).Value;

    /// <summary>Goes back to the letter that comes with the service.</summary>
    public async Task<LetterTemplateView> ResetLetterTemplateAsync(string kind, string language, CancellationToken cancellationToken) =>
        (await SendAsync<LetterTemplateView>(HttpMethod.Delete, Template(kind, language), null, null, cancellationToken)).Value;

    /// <summary>What becomes of a template.</summary>
    public async Task<LetterPreview> PreviewLetterAsync(string kind, string language, LetterTemplateDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<LetterPreview>(HttpMethod.Post, Template(kind, language) + "/preview", draft, null, cancellationToken)).Value;

    /// <summary>Sends a letter as it would be to whoever asks.</summary>
    public async Task<TestLetterView> TestLetterAsync(string kind, string language, LetterTemplateDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<TestLetterView>(HttpMethod.Post, Template(kind, language) + "/test", draft, null, cancellationToken)).Value;

    private static string Template(string kind, string language) => $"letter-templates/{Uri.EscapeDataString(kind)}/{Uri.EscapeDataString(language)}";
}
