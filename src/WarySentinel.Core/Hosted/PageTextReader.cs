using System.Globalization;
using System.Text;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Hosted;

/// <summary>
/// Reads the text of a page line by line. A line that begins with three colons is a mark, wherever it stands: also within what Markdown would take for code,
/// so that no stray fence lays open what is for others. A line with marks behind a list's or a quotation's sign is refused, not passed on.
/// </summary>
public sealed class PageTextReader
{
    /// <summary>Most characters of a text.</summary>
    public const int MostLength = 200_000;

    private const int Deepest = 8;
    private const int MostLanguages = 20;
    private static readonly string[] PutIn = ["form", "downloads", "player", "pages", "facts", "search"];

    /// <summary>The forms that a page may have.</summary>
    public static readonly IReadOnlyList<string> Forms = ["sign-in", "sign-out", "register", "forgotten", "unlock", "menu", "search"];

    /// <summary>What a page may tell a visitor of themselves.</summary>
    public static readonly IReadOnlyList<string> OwnFacts = ["name", "email", "roles", "groups", "plans"];

    private readonly Faults faults = new();
    private readonly List<(string Words, Audience Audience)> asks = [];
    private readonly Stack<Open> open = new();
    private readonly StringBuilder lines = new();
    private readonly Func<string, Outcome<Audience>> audienceOf;
    private readonly Func<ItemId, bool> isItem;
    private readonly Func<string, bool> isLanguage;
    private List<PagePiece> here = [];
    private int began = 1;

    private sealed record Open(int Line, BlockAsk Ask, List<PagePiece> Around)
    {
        public List<PagePiece>? Then { get; set; }
    }

    private PageTextReader(Func<string, Outcome<Audience>> audienceOf, Func<ItemId, bool> isItem, Func<string, bool> isLanguage) =>
        (this.audienceOf, this.isItem, this.isLanguage) = (audienceOf, isItem, isLanguage);

    /// <summary>Reads a text that is to be published; every fault with its line and column.</summary>
    /// <param name="text">The text.</param>
    /// <param name="known">The keys that audiences may name.</param>
    /// <param name="isItem">Whether there is an item.</param>
    public static Outcome<PageText> Read(string text, IKnownKeys known, Func<ItemId, bool> isItem) =>
        new PageTextReader(words => AudienceParser.Parse(words, known), isItem, Spelling.IsLanguage).All(text);

    /// <summary>Reads a text that was good once: what it names may be gone.</summary>
    public static Outcome<PageText> ReadStored(string text) => new PageTextReader(AudienceParser.ParseStored, _ => true, _ => true).All(text);

    private Outcome<PageText> All(string text)
    {
        if (text.Length > MostLength)
        {
            return Problem.In("text", "page-text-long", MostLength);
        }

        var number = 0;
        foreach (var line in text.ReplaceLineEndings("\n").Split('\n'))
        {
            Take(line, ++number);
        }

        foreach (var left in open)
        {
            faults.BadAt("text", "page-block-open", left.Line, 1);
        }

        EndMarkdown();
        return faults.Any ? faults.ToProblem("page-text-invalid") : new PageText(here, [.. asks.Select(a => a.Audience)]);
    }

    private void Take(string line, int number)
    {
        if (line.AsSpan().IndexOfAny('\0', '\uE000') >= 0)
        {
            faults.BadAt("text", "page-text-odd", number, line.AsSpan().IndexOfAny('\0', '\uE000') + 1);
            return;
        }

        var at = MarkIn(line);
        if (at < 0)
        {
            if (lines.Length == 0)
            {
                began = number;
            }

            lines.Append(line).Append('\n');
            return;
        }

        if (at > 3 || line.AsSpan(0, at).ContainsAnyExcept(' '))
        {
            faults.BadAt("text", "page-block-inside", number, at + 1);
            return;
        }

        EndMarkdown();
        var said = line[at..].TrimStart(':');
        var from = at + (line.Length - at - said.Length);
        var words = said.Trim();
        Mark(words, number, from + (said.Length - said.TrimStart().Length) + 1);
    }

    /// <summary>Where a mark stands in a line, behind whatever may stand before it that is no text of its own; −1 where none does.</summary>
    /// <remarks>What cannot be seen, and what begins lists and quotations, counts as nothing.</remarks>
    private static int MarkIn(string line)
    {
        var i = 0;
        while (i < line.Length && !line.AsSpan(i).StartsWith(":::"))
        {
            var c = line[i];
            if (char.IsWhiteSpace(c) || c is '>' or '-' or '+' or '*' || char.GetUnicodeCategory(c) is UnicodeCategory.Format or UnicodeCategory.Control)
            {
                i++;
            }
            else if (char.IsAsciiDigit(c) && Ordinal(line, i) is var end && end > i)
            {
                i = end;
            }
            else
            {
                return -1;
            }
        }

        return i < line.Length ? i : -1;
    }

    /// <summary>Where the number of a list ends that begins here; the place itself where none does.</summary>
    private static int Ordinal(string line, int at)
    {
        var end = at;
        while (end < line.Length && char.IsAsciiDigit(line[end]))
        {
            end++;
        }

        return end < line.Length && line[end] is '.' or ')' ? end + 1 : at;
    }

    private void Mark(string words, int number, int column)
    {
        var blank = words.IndexOfAny([' ', '\t']);
        var (kind, about) = blank < 0 ? (words, "") : (words[..blank], words[(blank + 1)..].Trim());
        var aboutAt = column + (about.Length == 0 ? 0 : words.IndexOf(about, blank + 1, StringComparison.Ordinal));
        switch (kind)
        {
            case "":
                Close(number);
                break;
            case "for":
                Begin(AskOf(about, number, aboutAt), number);
                break;
            case "in":
                Begin(LanguagesOf(about, number, aboutAt), number);
                break;
            case "otherwise" when about.Length == 0:
                Turn(number);
                break;
            case var _ when PutIn.Contains(kind):
                Put(kind, about, number, aboutAt);
                break;
            default:
                faults.BadAt("text", "page-block-unknown", number, column, kind, Nearest.To(kind, PutIn.Concat(["for", "in", "otherwise"])) ?? "for");
                break;
        }
    }

    private void Begin(BlockAsk ask, int number)
    {
        if (asks.Count > PageText.MostAsks)
        {
            faults.BadAt("text", "page-block-many", number, 1, PageText.MostAsks);
        }
        else if (open.Count >= Deepest)
        {
            faults.BadAt("text", "page-block-deep", number, 1, Deepest);
        }

        open.Push(new Open(number, ask, here));
        here = [];
    }

    /// <summary>The languages that a block is for.</summary>
    private BlockAsk LanguagesOf(string words, int number, int column)
    {
        var tags = words.Split([' ', '\t'], StringSplitOptions.RemoveEmptyEntries);
        var odd = tags.FirstOrDefault(t => t.Contains('/', StringComparison.Ordinal) || !isLanguage(t));
        if (odd is not null || tags.Length is 0 or > MostLanguages)
        {
            faults.BadAt("text", "page-block-language", number, column + (odd is null ? 0 : words.IndexOf(odd, StringComparison.Ordinal)), odd ?? words);
        }

        return new BlockAsk(0, string.Join('/', tags));
    }

    /// <summary>The question that a block for an audience asks.</summary>
    private BlockAsk AskOf(string words, int number, int column)
    {
        var read = audienceOf(words);
        var ask = 0;
        if (read.Problem is { } problem)
        {
            faults.BadAt("text", "page-block-audience", number, column + Math.Max(0, (problem.Faults is [{ Column: { } place }, ..] ? place : 1) - 1),
                problem.Detail);
        }
        else if (read.Value.AsksForPassword)
        {
            faults.BadAt("text", "page-block-password", number, column);
        }
        else
        {
            var said = read.Value.ToString()!;
            ask = asks.FindIndex(a => a.Words == said);
            if (ask < 0)
            {
                ask = asks.Count;
                asks.Add((said, read.Value));
            }
        }

        return new BlockAsk(ask);
    }

    private void Turn(int number)
    {
        if (open.TryPeek(out var left) && left.Then is null)
        {
            left.Then = here;
            here = [];
        }
        else
        {
            faults.BadAt("text", "page-block-otherwise", number, 1);
        }
    }

    private void Close(int number)
    {
        if (!open.TryPop(out var left))
        {
            faults.BadAt("text", "page-block-close", number, 1);
            return;
        }

        left.Around.Add(left.Then is { } then ? new ChoicePiece(left.Line, left.Ask, then, here) : new ChoicePiece(left.Line, left.Ask, here, []));
        here = left.Around;
    }

    private void Put(string kind, string about, int number, int column)
    {
        switch (kind)
        {
            case "form" when !Forms.Contains(about):
                faults.BadAt("text", "page-block-form", number, column, about, string.Join(", ", Forms));
                break;
            case "downloads" or "player" when !ItemId.TryParse(about, out var id) || !isItem(id):
                faults.BadAt("text", "page-block-item", number, column, about);
                break;
            case "facts" when about.Split(' ', StringSplitOptions.RemoveEmptyEntries).FirstOrDefault(f => !OwnFacts.Contains(f)) is { } odd:
                faults.BadAt("text", "page-block-fact", number, column, odd, string.Join(", ", OwnFacts));
                break;
            case "pages" or "search" when about.Length > 0:
                faults.BadAt("text", "page-block-alone", number, column, kind);
                break;
        }

        here.Add(new PutInPiece(number, kind, about));
    }

    private void EndMarkdown()
    {
        if (lines.ToString() is { } text && !string.IsNullOrWhiteSpace(text))
        {
            here.Add(new MarkdownPiece(began, text));
        }

        lines.Clear();
    }
}
