namespace WarySentinel.Contract.Pages;

/// <summary>A language that pages for visitors can be in.</summary>
/// <param name="Language">The language (RFC 5646 tag).</param>
/// <param name="Name">Its own name for itself.</param>
/// <param name="IsSites">Whether it is the site's.</param>
/// <param name="IsOffered">Whether visitors are offered it.</param>
/// <param name="IsOurs">Whether the service has its words.</param>
/// <param name="Own">How many texts the owner has said in it.</param>
/// <param name="Missing">How many texts it lacks.</param>
public sealed record LanguageView(string Language, string Name, bool IsSites, bool IsOffered, bool IsOurs, int Own, int Missing);

/// <summary>A text that visitors read.</summary>
/// <param name="Key">Its key, such as <c>sign-in.title</c>, or <c>gate:dealer-stock.message</c> for one of the owner's own.</param>
/// <param name="Group">What it belongs to.</param>
/// <param name="Shown">What visitors read in this language.</param>
/// <param name="Own">What the owner says in this language in place of ours, or for one of their own; null where they say nothing.</param>
/// <param name="Original">Ours in this language, or the owner's as it stands where it is set.</param>
/// <param name="IsOwners">Whether it is one of the owner's own.</param>
/// <param name="IsMissing">Whether visitors read it in another language.</param>
/// <param name="HasLines">Whether it may have several lines.</param>
/// <param name="Longest">Most characters.</param>
public sealed record TextView(
    string Key, string Group, string Shown, string? Own, string Original, bool IsOwners, bool IsMissing, bool HasLines, int Longest);

/// <summary>Something of the owner's that a language lacks, and that is put into words elsewhere.</summary>
/// <param name="Kind"><c>form</c>, <c>field</c>, <c>terms</c> or <c>letter</c>.</param>
/// <param name="Key">Its name.</param>
/// <param name="Title">What it is called.</param>
public sealed record UntoldView(string Kind, string Key, string Title);

/// <summary>All texts in a language.</summary>
/// <param name="Language">The language, as it is looked at.</param>
/// <param name="Texts">The texts, ours first.</param>
/// <param name="Elsewhere">What it lacks that is put into words elsewhere.</param>
/// <param name="Version">Counts the changes of the owner's words; 0 where they said none.</param>
public sealed record TextsView(LanguageView Language, IReadOnlyList<TextView> Texts, IReadOnlyList<UntoldView> Elsewhere, int Version);

/// <summary>Texts to be stored in a language.</summary>
/// <param name="Words">The texts by key; null or blank goes back to what the service says. Those that are not named stay.</param>
public sealed record TextsPatch(IReadOnlyDictionary<string, string?> Words);
