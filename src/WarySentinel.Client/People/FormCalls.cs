using WarySentinel.Contract;
using WarySentinel.Contract.People;

namespace WarySentinel.Client;

/// <summary>Fields, forms, answers and requests to join.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The fields, in their order.</summary>
    public async Task<IReadOnlyList<FieldView>> FieldsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<FieldView>>("fields", cancellationToken)).Value.Items;

    /// <summary>Puts fields into an order.</summary>
    public async Task<IReadOnlyList<FieldView>> OrderFieldsAsync(IReadOnlyList<string> keys, CancellationToken cancellationToken) =>
        (await SendAsync<PageOf<FieldView>>(HttpMethod.Post, "fields/order", new OrderedKeys(keys), null, cancellationToken)).Value.Items;

    /// <summary>Puts forms into an order; the first is the one at the plain address.</summary>
    public async Task<IReadOnlyList<FormView>> OrderFormsAsync(IReadOnlyList<string> keys, CancellationToken cancellationToken) =>
        (await SendAsync<PageOf<FormView>>(HttpMethod.Post, "forms/order", new OrderedKeys(keys), null, cancellationToken)).Value.Items;

    /// <summary>Stores a field.</summary>
    public async Task<FieldView> PutFieldAsync(string key, FieldDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<FieldView>(HttpMethod.Put, "fields/" + Uri.EscapeDataString(key), draft, null, cancellationToken)).Value;

    /// <summary>Removes a field; what was answered to it stays.</summary>
    public Task RemoveFieldAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "fields/" + Uri.EscapeDataString(key), null, null, cancellationToken);

    /// <summary>Erases what everybody answered a field.</summary>
    public async Task<ErasedView> EraseAnswersAsync(string key, CancellationToken cancellationToken) =>
        (await SendAsync<ErasedView>(HttpMethod.Delete, $"fields/{Uri.EscapeDataString(key)}/answers", null, null, cancellationToken)).Value;

    /// <summary>The forms, in their order.</summary>
    public async Task<IReadOnlyList<FormView>> FormsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<FormView>>("forms", cancellationToken)).Value.Items;

    /// <summary>One form.</summary>
    public async Task<FormView> FormAsync(string key, CancellationToken cancellationToken) =>
        (await GetAsync<FormView>("forms/" + Uri.EscapeDataString(key), cancellationToken)).Value;

    /// <summary>Stores a form.</summary>
    public async Task<FormView> PutFormAsync(string key, FormDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<FormView>(HttpMethod.Put, "forms/" + Uri.EscapeDataString(key), draft, null, cancellationToken)).Value;

    /// <summary>Removes a form; who came by it stays.</summary>
    public Task RemoveFormAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "forms/" + Uri.EscapeDataString(key), null, null, cancellationToken);

    /// <summary>Asks what would become of a form with these answers.</summary>
    public async Task<FormTryView> TryFormAsync(string key, FormTryDraft asked, CancellationToken cancellationToken) =>
        (await SendAsync<FormTryView>(HttpMethod.Post, $"forms/{Uri.EscapeDataString(key)}/try", asked, null, cancellationToken)).Value;

    /// <summary>What a member answered.</summary>
    public async Task<IReadOnlyList<AnswerView>> AnswersAsync(string member, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<AnswerView>>($"members/{Uri.EscapeDataString(member)}/answers", cancellationToken)).Value.Items;

    /// <summary>Stores other answers for a member.</summary>
    public async Task<IReadOnlyList<AnswerView>> SetAnswersAsync(
        string member, IReadOnlyDictionary<string, IReadOnlyList<string>> answers, CancellationToken cancellationToken) =>
        (await SendAsync<PageOf<AnswerView>>(
            HttpMethod.Put, $"members/{Uri.EscapeDataString(member)}/answers", new AnswersDraft(answers), null, cancellationToken)).Value.Items;

    /// <summary>The path of requests in these states.</summary>
    public static string RequestsPath(string states) => "requests?state=" + Uri.EscapeDataString(states);

    /// <summary>Somebody's request.</summary>
    public async Task<RequestView> RequestAsync(string member, CancellationToken cancellationToken) =>
        (await GetAsync<RequestView>($"members/{Uri.EscapeDataString(member)}/request", cancellationToken)).Value;

    /// <summary>Others who asked from the same network within a day, the newest first; a hundred at most.</summary>
    public async Task<IReadOnlyList<RequestView>> NearbyAsync(string member, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<RequestView>>($"requests/{Uri.EscapeDataString(member)}/nearby", cancellationToken)).Value.Items;

    /// <summary>Asks somebody back who asked to join.</summary>
    public async Task<MemberView> AskBackAsync(string member, string words, CancellationToken cancellationToken) => (await SendAsync<MemberView>(
        HttpMethod.Post, $"members/{Uri.EscapeDataString(member)}/ask-back", new RequestDecision(words), null, cancellationToken)).Value;

    /// <summary>Lets a request go its way that was held back.</summary>
    public async Task<MemberView> LetGoAsync(string member, CancellationToken cancellationToken) =>
        (await SendAsync<MemberView>(HttpMethod.Post, $"members/{Uri.EscapeDataString(member)}/let-go", null, null, cancellationToken)).Value;

    /// <summary>Decides many requests.</summary>
    public async Task<RequestsDecided> DecideAsync(RequestsDecision decision, CancellationToken cancellationToken) =>
        (await SendAsync<RequestsDecided>(HttpMethod.Post, "requests/decide", decision, null, cancellationToken)).Value;
}
