namespace WarySentinel.Contract.People;

/// <summary>The words of terms in another language; what is left out stays in the site's own.</summary>
/// <param name="Title">What they are called.</param>
/// <param name="Text">The text, in Markdown (CommonMark).</param>
/// <param name="Note">What is new in this version.</param>
public sealed record TermsWords(string? Title = null, string? Text = null, string? Note = null);

/// <summary>Terms that members agree to: whom they are for, and the newest text. Where the text says something else than it did, it is a new version.</summary>
public sealed record TermsDraft
{
    /// <summary>Their name, in addresses, forms and files.</summary>
    public string? Key { get; init; }

    /// <summary>What they are called.</summary>
    public string? Title { get; init; }

    /// <summary>Whom they are asked of, as an audience; every member where nothing is said.</summary>
    public string? Audience { get; init; }

    /// <summary>Whether members come in without agreeing; they have to where nothing is said.</summary>
    public bool? Optional { get; init; }

    /// <summary>The order among terms, lowest first.</summary>
    public int? Position { get; init; }

    /// <summary>What is new in this version.</summary>
    public string? Note { get; init; }

    /// <summary>From when on a new version counts (a day, or RFC 3339); at once where nothing is said.</summary>
    public string? From { get; init; }

    /// <summary>Whether those who agreed to an older version stay so, since nothing that matters has changed.</summary>
    public bool? Minor { get; init; }

    /// <summary>The text, in Markdown (CommonMark).</summary>
    public string? Text { get; init; }

    /// <summary>Words in other languages, by their tags (RFC 5646).</summary>
    public IReadOnlyDictionary<string, TermsWords>? In { get; init; }
}

/// <summary>A version of terms, and what was said to it.</summary>
/// <param name="Number">Counts versions, from 1.</param>
/// <param name="Title">What they are called in it.</param>
/// <param name="Note">What is new in it.</param>
/// <param name="From">From when on it counts.</param>
/// <param name="Minor">Whether those who agreed to an older one stay so.</param>
/// <param name="State"><c>announced</c>, <c>in-force</c> or <c>past</c>.</param>
/// <param name="At">When it was published.</param>
/// <param name="By">Who published it.</param>
/// <param name="Agreed">How many members agreed to it.</param>
/// <param name="Refused">How many did not.</param>
/// <param name="Address">The page where anybody reads it.</param>
public sealed record TermsVersionView(
    int Number, string Title, string? Note, DateTimeOffset From, bool Minor, string State, DateTimeOffset At, string By, int Agreed, int Refused,
        string Address);

/// <summary>The text of a version of terms.</summary>
/// <param name="Number">The version.</param>
/// <param name="Title">What they are called in it.</param>
/// <param name="Text">The text, in Markdown (CommonMark).</param>
/// <param name="In">Words in other languages, by their tags.</param>
public sealed record TermsTextView(int Number, string Title, string Text, IReadOnlyDictionary<string, TermsWords>? In);

/// <summary>Terms, and where they stand.</summary>
/// <param name="Terms">What they say, with the newest text.</param>
/// <param name="Who">Whom they are asked of, in words.</param>
/// <param name="Versions">Their versions, newest first.</param>
/// <param name="Forms">The forms that ask for them.</param>
/// <param name="Version">Counts changes of this row; the ETag.</param>
public sealed record TermsView(TermsDraft Terms, string Who, IReadOnlyList<TermsVersionView> Versions, IReadOnlyList<string> Forms, int Version);

/// <summary>What a member said to terms.</summary>
/// <param name="Terms">The key of the terms.</param>
/// <param name="Number">The version that they saw.</param>
/// <param name="Agreed">Whether they agreed.</param>
/// <param name="At">When.</param>
/// <param name="Language">The language in which they read it.</param>
/// <param name="Where">Where it was asked: a form's key, or <c>sign-in</c>.</param>
public sealed record ConsentView(string Terms, int Number, bool Agreed, DateTimeOffset At, string Language, string Where);
