using WarySentinel.Contract;
using WarySentinel.Contract.Pages;

namespace WarySentinel.Client;

/// <summary>The words of visitor pages.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The languages that pages can be in.</summary>
    public async Task<IReadOnlyList<LanguageView>> LanguagesAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<LanguageView>>("texts", cancellationToken)).Value.Items;

    /// <summary>All texts in a language.</summary>
    public async Task<TextsView> TextsAsync(string language, CancellationToken cancellationToken) =>
        (await GetAsync<TextsView>("texts/" + Uri.EscapeDataString(language), cancellationToken)).Value;

    /// <summary>Stores some texts of a language; null goes back to what the service says.</summary>
    public async Task<TextsView> SetTextsAsync(string language, TextsPatch patch, CancellationToken cancellationToken) =>
        (await SendAsync<TextsView>(HttpMethod.Patch, "texts/" + Uri.EscapeDataString(language), patch, "*", cancellationToken)).Value;

    /// <summary>Goes back to what the service says in a language.</summary>
    public async Task<TextsView> ResetTextsAsync(string language, CancellationToken cancellationToken) =>
        (await SendAsync<TextsView>(HttpMethod.Delete, "texts/" + Uri.EscapeDataString(language), null, null, cancellationToken)).Value;
}
