using System.Globalization;
using WarySentinel.Core.Access;

namespace WarySentinel.Core.Hosted;

/// <summary>A piece of a page's text. Immutable.</summary>
/// <param name="Line">The line of the text on which it begins, from 1.</param>
public abstract record PagePiece(int Line);

/// <summary>Markdown, as it was written, whole lines.</summary>
/// <param name="Line">Its first line.</param>
/// <param name="Text">The lines.</param>
public sealed record MarkdownPiece(int Line, string Text) : PagePiece(Line);

/// <summary>Something that is put in when the page is asked for.</summary>
/// <param name="Line">Its line.</param>
/// <param name="Kind">What: <c>form</c>, <c>downloads</c>, <c>player</c>, <c>pages</c>, <c>facts</c> or <c>search</c>.</param>
/// <param name="About">Of what: the name of a form, an item, the names of facts; may be empty.</param>
public sealed record PutInPiece(int Line, string Kind, string About) : PagePiece(Line);

/// <summary>What a block asks: whether a visitor is in an audience, or in which language they read.</summary>
/// <param name="Number">Which of the questions of the text (<see cref="PageText.Asks"/>); of no meaning where it asks for a language.</param>
/// <param name="Languages">The languages (RFC 5646 tags), with a slash between them; null where it asks for an audience.</param>
public readonly record struct BlockAsk(int Number, string? Languages = null)
{
    /// <summary>Whether it is so for somebody.</summary>
    /// <param name="answers">The answers of all questions, the first in the lowest bit.</param>
    /// <param name="language">The language that they read in; <c>de</c> is asked for by <c>de-AT</c> as well (RFC 4647 §3.3.1).</param>
    public bool IsMet(ulong answers, string language) =>
        Languages is { } tags ? tags.Split('/').Any(t => Spelling.Covers(t, language)) : (answers >> Number & 1) != 0;

    /// <summary>As it is stored: the number, or the languages.</summary>
    public override string ToString() => Languages ?? Number.ToString(CultureInfo.InvariantCulture);

    /// <summary>Reads what <see cref="ToString"/> wrote; null where it cannot be read.</summary>
    /// <param name="stored">What was written.</param>
    /// <param name="asks">How many questions there are.</param>
    public static BlockAsk? Parse(ReadOnlySpan<char> stored, int asks) =>
        int.TryParse(stored, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number < asks ? new BlockAsk(number) : null
        : stored.ToString() is var tags && Array.TrueForAll(tags.Split('/'), IsTag) ? new BlockAsk(0, tags) : null;

    private static bool IsTag(string tag) =>
        tag.Length is > 1 and <= 35 && char.IsAsciiLetter(tag[0]) && tag.All(c => char.IsAsciiLetterOrDigit(c) || c == '-');
}

/// <summary>What stands there for some, and what for everybody else.</summary>
/// <param name="Line">The line that opens it.</param>
/// <param name="Ask">What decides.</param>
/// <param name="Then">For those of whom it is so.</param>
/// <param name="Otherwise">For everybody else.</param>
public sealed record ChoicePiece(int Line, BlockAsk Ask, IReadOnlyList<PagePiece> Then, IReadOnlyList<PagePiece> Otherwise) : PagePiece(Line);

/// <summary>
/// The text of a hosted page, taken apart by its lines that begin with <c>:::</c>. What is not for a visitor is dropped before anything is made of the
/// rest, so that nothing of it can be in what they get (docs/how-to/hosted-pages.md).
/// </summary>
/// <param name="Pieces">Its pieces, in order.</param>
/// <param name="Asks">The audiences that it asks for, each once, in the order in which they stand.</param>
public sealed record PageText(IReadOnlyList<PagePiece> Pieces, IReadOnlyList<Audience> Asks)
{
    /// <summary>The most questions of a page: their answers stand in the bits of one number.</summary>
    public const int MostAsks = 60;

    /// <summary>The answers of all questions, the first in the lowest bit.</summary>
    /// <param name="asks">The questions, as the policy says them now.</param>
    /// <param name="admits">Whether the visitor is in an audience.</param>
    public static ulong Answers(IReadOnlyList<Audience> asks, Func<Audience, bool> admits)
    {
        var answers = 0UL;
        for (var i = 0; i < asks.Count; i++)
        {
            answers |= admits(asks[i]) ? 1UL << i : 0;
        }

        return answers;
    }

    /// <summary>What somebody with these answers who reads in that language gets: Markdown and what is put in, in order.</summary>
    public IEnumerable<PagePiece> For(ulong answers, string language) => For(Pieces, answers, language);

    /// <summary>Everything that anybody gets.</summary>
    public IEnumerable<PagePiece> All() => All(Pieces);

    /// <summary>Every piece, with what has to be answered, and how, for somebody to get it.</summary>
    public IEnumerable<(PagePiece Piece, IReadOnlyList<(BlockAsk Ask, bool Answer)> If)> Conditions() => Conditions(Pieces, []);

    private static IEnumerable<PagePiece> For(IReadOnlyList<PagePiece> pieces, ulong answers, string language) =>
        pieces.SelectMany(piece => piece is not ChoicePiece choice ? [piece]
        : For(choice.Ask.IsMet(answers, language) ? choice.Then : choice.Otherwise, answers, language));

    private static IEnumerable<PagePiece> All(IReadOnlyList<PagePiece> pieces) =>
        pieces.SelectMany(piece => piece is ChoicePiece choice ? All(choice.Then).Concat(All(choice.Otherwise)) : [piece]);

    private static IEnumerable<(PagePiece Piece, IReadOnlyList<(BlockAsk Ask, bool Answer)> If)> Conditions(
        IReadOnlyList<PagePiece> pieces, IReadOnlyList<(BlockAsk Ask, bool Answer)> on) => pieces.SelectMany(piece => piece is ChoicePiece choice
        ? Conditions(choice.Then, [.. on, (choice.Ask, true)]).Concat(Conditions(choice.Otherwise, [.. on, (choice.Ask, false)]))
        : [(piece, on)]);
}
