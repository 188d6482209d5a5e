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

/// <summary>What stands there for an audience, and what for everybody else.</summary>
/// <param name="Line">The line that opens it.</param>
/// <param name="Ask">Which of the questions of the text it asks (<see cref="PageText.Asks"/>).</param>
/// <param name="Then">For whoever is in the audience.</param>
/// <param name="Otherwise">For everybody else.</param>
public sealed record ChoicePiece(int Line, int Ask, IReadOnlyList<PagePiece> Then, IReadOnlyList<PagePiece> Otherwise) : PagePiece(Line);

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

    /// <summary>What somebody with these answers gets: Markdown and what is put in, in order.</summary>
    public IEnumerable<PagePiece> For(ulong answers) => For(Pieces, answers);

    /// <summary>Everything that anybody gets.</summary>
    public IEnumerable<PagePiece> All() => All(Pieces);

    /// <summary>Every piece, with what has to be answered, and how, for somebody to get it.</summary>
    public IEnumerable<(PagePiece Piece, IReadOnlyList<(int Ask, bool Answer)> If)> Conditions() => Conditions(Pieces, []);

    private static IEnumerable<PagePiece> For(IReadOnlyList<PagePiece> pieces, ulong answers) =>
        pieces.SelectMany(piece => piece is not ChoicePiece choice ? [piece]
        : For((answers >> choice.Ask & 1) != 0 ? choice.Then : choice.Otherwise, answers));

    private static IEnumerable<PagePiece> All(IReadOnlyList<PagePiece> pieces) =>
        pieces.SelectMany(piece => piece is ChoicePiece choice ? All(choice.Then).Concat(All(choice.Otherwise)) : [piece]);

    private static IEnumerable<(PagePiece Piece, IReadOnlyList<(int Ask, bool Answer)> If)> Conditions(
        IReadOnlyList<PagePiece> pieces, IReadOnlyList<(int Ask, bool Answer)> on) => pieces.SelectMany(piece => piece is ChoicePiece choice
        ? Conditions(choice.Then, [.. on, (choice.Ask, true)]).Concat(Conditions(choice.Otherwise, [.. on, (choice.Ask, false)]))
        : [(piece, on)]);
}
