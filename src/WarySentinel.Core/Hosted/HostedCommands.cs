using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Pages;

namespace WarySentinel.Core.Hosted;

/// <summary>What commands of hosted pages need to know beside the policy.</summary>
/// <param name="Reserved">Path prefixes that the service serves itself.</param>
/// <param name="By">Who does it.</param>
/// <param name="Now">The time.</param>
public sealed record HostedSurroundings(IReadOnlyList<string> Reserved, string By, DateTimeOffset Now);

/// <summary>Makes, changes, publishes and removes hosted pages and their sections: each gives what to store, or why not.</summary>
public static class HostedCommands
{
    /// <summary>Most pages of a site.</summary>
    public const int MostPages = 5000;

    /// <summary>Most sections of a site.</summary>
    public const int MostSections = 200;

    internal const int LongestTitle = 300;
    internal const int LongestDescription = 500;
    private const int LongestTemplate = 100_000;
    private static readonly string[] Layouts = ["plain", "side", "own"];

    /// <summary>Makes a section, or changes one.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">What is wanted.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    /// <param name="around">What else counts.</param>
    public static Outcome<Edit<HostedSection>> PutSection(Policy policy, HostedSectionDraft draft, int? version, HostedSurroundings around)
    {
        var (book, key) = (HostedBook.Of(policy), draft.Key ?? "");
        var old = book.Section(key);
        if (Stale(version, old?.Version ?? 0, "section:" + key) is { } stale)
        {
            return stale;
        }

        if (!CatalogueKey.IsValid(key))
        {
            return Problem.In("key", "page-key", key);
        }

        var faults = new Faults();
        var layout = draft.Layout ?? (draft.Template is { Length: > 0 } ? "own" : "side");
        faults.Unless(Layouts.Contains(layout), "layout", "page-layout", layout, string.Join(", ", Layouts));
        faults.Unless(layout != "own" || draft.Template is { Length: > 0 and <= LongestTemplate }, "template", "page-template", LongestTemplate);
        faults.Unless(IsLine(draft.Description, LongestDescription), "description", "page-description", LongestDescription);
        faults.Unless(old is not null || book.Sections.Count < MostSections, "key", "page-sections-many", MostSections);
        var (item, change) = Item(policy, new ItemId(ItemKind.Section, key), draft.Title, draft.Parent is { Length: > 0 } parent ? [parent] : [], draft.Address,
            (draft.Address ?? "") + "/**", old is null, around, faults);
        if (faults.Any)
        {
            return faults.ToProblem("page-invalid");
        }

        if (item?.Problem is { } odd)
        {
            return odd;
        }

        var moved = old is null ? [] : Along(policy, old, draft.Address!, around, faults);
        if (faults.Any)
        {
            return faults.ToProblem("page-invalid");
        }

        var fresh = new HostedSection(key)
        {
            Description = Line(draft.Description), Layout = layout, Template = layout == "own" ? draft.Template!.ReplaceLineEndings("\n") : null,
            InSite = draft.InSite ?? false, Version = (old?.Version ?? 0) + 1,
        };
        return new Edit<HostedSection>(
            new Edit(old is null ? "section.add" : "section.set", key, [.. change, .. moved, new SectionPut(fresh)], policy.Graph.Find(fresh.Id)?.Title,
                draft.Title), fresh);
    }

    /// <summary>The pages of a section go along where it goes, as far as they stand beneath it.</summary>
    private static IReadOnlyList<Change> Along(Policy policy, HostedSection section, string address, HostedSurroundings around, Faults faults)
    {
        if (AddressOf(policy, section.Id) is not { } before || before == address)
        {
            return [];
        }

        var addresses = new PageAddresses(policy, around.Reserved);
        var items = new List<Item>();
        foreach (var item in HostedBook.Of(policy).Pages.Where(p => p.Section == section.Key).Select(p => policy.Graph.Find(p.Id)).OfType<Item>()
            .Where(i => i.Addresses is [var first, ..] && (first.Text == before || first.Text.StartsWith(before + "/", StringComparison.Ordinal))))
        {
            var to = address + item.Addresses[0].Text[before.Length..];
            if (addresses.TakenBy(to, addresses.Answers, item.Id) is not null || !Address.TryParse(to, out var read, out _))
            {
                faults.Bad("address", "page-address-along", to, item.Id);
                continue;
            }

            items.Add(item with { Addresses = [read, .. item.Addresses.Skip(1)], Version = item.Version + 1 });
        }

        return items.Count == 0 ? [] : [new ItemsPut(items)];
    }

    /// <summary>Drops a section that has no pages, and its item.</summary>
    public static Outcome<Edit<HostedSection>> RemoveSection(Policy policy, string key, Func<ItemId, string?> gateNaming)
    {
        if (HostedBook.Of(policy).Section(key) is not { } old)
        {
            return Problem.Of(ProblemKind.NotFound, "section-unknown", key);
        }

        if (HostedBook.Of(policy).Pages.Count(p => p.Section == key) is var pages and > 0)
        {
            return Problem.Of(ProblemKind.Conflict, "section-pages", key, pages);
        }

        var item = Dropped(policy, old.Id, gateNaming);
        return item.Problem is { } problem ? problem
            : new Edit<HostedSection>(new Edit("section.remove", key, [.. item.Changes, new SectionDropped(key)]), old);
    }

    /// <summary>Makes a page with nothing published, and its draft.</summary>
    public static Outcome<Edit<HostedPage>> Add(Policy policy, HostedPageDraft draft, PageWriting writing, HostedSurroundings around)
    {
        var (book, key) = (HostedBook.Of(policy), draft.Key is { Length: > 0 } said ? said : Slug.Of(draft.Title ?? ""));
        if (!CatalogueKey.IsValid(key))
        {
            return Problem.In("key", "page-key", key);
        }

        if (book.Page(key) is not null)
        {
            return Problem.Of(ProblemKind.Conflict, "page-exists", key);
        }

        if (book.Pages.Count >= MostPages)
        {
            return Problem.Of(ProblemKind.Conflict, "pages-many", MostPages);
        }

        var placed = Placed(policy, new HostedPage(key, draft.Section ?? "") { Version = 0, Title = draft.Title ?? "" }, draft, true, around);
        if (placed.Problem is { } problem)
        {
            return problem;
        }

        var text = Written(key, writing with { Title = writing.Title ?? draft.Title }, 0, around);
        return text.Problem is { } wrong ? wrong
            : new Edit<HostedPage>(
                new Edit("page.add", key, [.. placed.Value.Changes, new PageDraftSet(text.Value, 0)], null, draft.Title), placed.Value.Page);
    }

    /// <summary>Moves a page: to another section, address or place.</summary>
    public static Outcome<Edit<HostedPage>> Set(Policy policy, string key, HostedPageDraft draft, int? version, HostedSurroundings around)
    {
        if (HostedBook.Of(policy).Page(key) is not { } old)
        {
            return Unknown(policy, key);
        }

        if (Stale(version, old.Version, "page:" + key) is { } stale)
        {
            return stale;
        }

        var placed = Placed(policy, old, draft with { Section = draft.Section ?? old.Section, Title = draft.Title ?? old.Title }, false, around);
        return placed.Problem is { } problem ? problem
            : new Edit<HostedPage>(new Edit("page.set", key, placed.Value.Changes, old.Title, placed.Value.Page.Title), placed.Value.Page);
    }

    /// <summary>Keeps what is written and not published yet.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="key">The page.</param>
    /// <param name="writing">What is written; it may still be wrong.</param>
    /// <param name="was">The version of the draft that was edited; 0 where there was none.</param>
    /// <param name="around">What else counts.</param>
    public static Outcome<Edit<PageDraftText>> Write(Policy policy, string key, PageWriting writing, int was, HostedSurroundings around)
    {
        if (HostedBook.Of(policy).Page(key) is null)
        {
            return Problem.Of(ProblemKind.NotFound, "page-unknown-hosted", key);
        }

        var text = Written(key, writing, was, around);
        return text.Problem is { } problem ? problem
            : new Edit<PageDraftText>(new Edit("page.write", key, [new PageDraftSet(text.Value, was)]), text.Value);
    }

    /// <summary>Publishes what is written, at once or from a time on.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="key">The page.</param>
    /// <param name="writing">What is to be published.</param>
    /// <param name="from">From when on; null for at once.</param>
    /// <param name="known">The keys that audiences may name.</param>
    /// <param name="plain">Makes plain words of Markdown, for the search.</param>
    /// <param name="around">What else counts.</param>
    public static Outcome<Edit<HostedPage>> Publish(
        Policy policy, string key, PageWriting writing, DateTimeOffset? from, IKnownKeys known, Func<string, string> plain, HostedSurroundings around)
    {
        if (HostedBook.Of(policy).Page(key) is not { } old)
        {
            return Unknown(policy, key);
        }

        var written = Written(key, writing, 0, around);
        var read = PageTextReader.Read(writing.Text ?? "", known, id => policy.Graph.PlaceOf(id) >= 0);
        if ((written.Problem ?? read.Problem) is { } problem)
        {
            return problem;
        }

        var draft = written.Value;
        var edition = new PageEdition(old.Last + 1, from > around.Now ? from.Value : around.Now, draft.Title, draft.Description, read.Value.Asks);
        var isLater = edition.From > around.Now;
        var fresh = old with
        {
            Title = draft.Title,
            Now = isLater ? old.At(around.Now) : edition,
            Next = isLater ? edition : null,
            Last = edition.Number,
            Version = old.Version + 1,
        };
        var item = policy.Graph.Find(fresh.Id);
        Change[] renamed = item is not null && !isLater && item.Title != draft.Title
            ? [new ItemsPut([item with { Title = draft.Title, Version = item.Version + 1 }])] : [];
        var version = new PageVersion(key, edition.Number, draft.Title, draft.Description, draft.Text, around.By, around.Now);
        return new Edit<HostedPage>(
            new Edit(isLater ? "page.schedule" : "page.publish", key,
                [.. renamed, new HostedPagePut(fresh), new PageVersionAdded(version, WordsOf(version, read.Value, plain), Served(fresh)),
                    new PageDraftDropped(key)],
                old.Now is { } now ? $"{now.Number}" : null, $"{edition.Number}"),
            fresh);
    }

    /// <summary>Serves nothing of a page any more; its versions stay.</summary>
    public static Outcome<Edit<HostedPage>> Unpublish(Policy policy, string key)
    {
        if (HostedBook.Of(policy).Page(key) is not { } old)
        {
            return Unknown(policy, key);
        }

        var fresh = old with { Now = null, Next = null, Version = old.Version + 1 };
        IReadOnlyList<Change> changes = old is { Now: null, Next: null } ? [] : [new HostedPagePut(fresh)];
        return new Edit<HostedPage>(new Edit("page.unpublish", key, changes, old.Now is { } now ? $"{now.Number}" : null), changes.Count == 0 ? old : fresh);
    }

    /// <summary>Drops a page with all its versions, and its item.</summary>
    public static Outcome<Edit<HostedPage>> Remove(Policy policy, string key, Func<ItemId, string?> gateNaming)
    {
        if (HostedBook.Of(policy).Page(key) is not { } old)
        {
            return Unknown(policy, key);
        }

        var item = Dropped(policy, old.Id, gateNaming);
        return item.Problem is { } problem ? problem
            : new Edit<HostedPage>(new Edit("page.remove", key, [.. item.Changes, new HostedPageDropped(key)], old.Title), old);
    }

    /// <summary>The versions of a page that are served now or later.</summary>
    public static IReadOnlyList<int> Served(HostedPage page) => [.. new[] { page.Now, page.Next }.OfType<PageEdition>().Select(e => e.Number)];

    /// <summary>The words by which a version is found, by its pieces.</summary>
    public static IReadOnlyList<PageWordsOf> WordsOf(PageVersion version, PageText text, Func<string, string> plain) =>
    [
        new(-1, SearchWords.Of($"{version.Title} {version.Description}")),
        .. text.Conditions().Select((c, piece) => new PageWordsOf(
            piece, c.Piece is MarkdownPiece m ? SearchWords.Of(plain(m.Text)) : [], PageWordsOf.Write(c.If)))
            .Where(w => w.Words.Count > 0),
    ];

    private static Outcome<PageDraftText> Written(string key, PageWriting writing, int was, HostedSurroundings around)
    {
        var (faults, text) = (new Faults(), (writing.Text ?? "").ReplaceLineEndings("\n"));
        faults.Unless(writing.Title?.Trim() is { Length: > 0 and <= LongestTitle } title && PlainText.IsClean(title), "title", "page-title", LongestTitle);
        faults.Unless(IsLine(writing.Description, LongestDescription), "description", "page-description", LongestDescription);
        faults.Unless(text.Length <= PageTextReader.MostLength, "text", "page-text-long", PageTextReader.MostLength);
        faults.Unless(!text.Contains('\0', StringComparison.Ordinal), "text", "page-text-nul");
        return faults.Any ? faults.ToProblem("page-invalid")
            : new PageDraftText(key, writing.Title!.Trim(), Line(writing.Description), text, was + 1, around.By, around.Now);
    }

    private static Outcome<(HostedPage Page, IReadOnlyList<Change> Changes)> Placed(
        Policy policy, HostedPage page, HostedPageDraft draft, bool isNew, HostedSurroundings around)
    {
        var book = HostedBook.Of(policy);
        if (book.Section(draft.Section ?? "") is not { } section)
        {
            return Problem.In("section", "section-unknown-near", draft.Section, Nearest.To(draft.Section ?? "", book.Sections.Select(s => s.Key)) ?? "");
        }

        var (faults, there) = (new Faults(), AddressOf(policy, section.Id));
        var address = draft.Address is { Length: > 0 } own ? own.Trim()
            : !isNew && page.Section == section.Key ? AddressOf(policy, page.Id) ?? $"{there}/{page.Key}" : $"{there}/{page.Key}";
        var (item, change) = Item(policy, page.Id, draft.Title, [section.Id.ToString()], address, address, isNew, around, faults);
        if (faults.Any || item?.Problem is not null)
        {
            return faults.Any ? faults.ToProblem("page-invalid") : item!.Value.Problem!;
        }

        var last = book.Pages.Where(p => p.Section == section.Key && p.Key != page.Key).Select(p => p.Position).DefaultIfEmpty(0).Max();
        var fresh = page with
        {
            Section = section.Key,
            Title = draft.Title!.Trim(),
            Version = page.Version + 1,
            Position = draft.Position ?? (isNew || page.Section != section.Key ? last + 10 : page.Position),
        };
        return (fresh, [.. change, new HostedPagePut(fresh)]);
    }

    /// <summary>Where a page or a section stands, by its item; null where it has no address.</summary>
    public static string? AddressOf(Policy policy, ItemId id) => policy.Graph.Find(id)?.Addresses is not [var address, ..] ? null
        : id.Kind == ItemKind.Section && address.Text.EndsWith("/**", StringComparison.Ordinal) ? address.Text[..^3] : address.Text;

    /// <summary>The change of the item that a page or a section stands for.</summary>
    private static (Outcome<Edit<Item>>? Item, IReadOnlyList<Change> Changes) Item(
        Policy policy, ItemId id, string? title, IReadOnlyList<string> parents, string? address, string matches, bool isNew, HostedSurroundings around,
            Faults faults)
    {
        faults.Unless(title?.Trim() is { Length: > 0 and <= LongestTitle }, "title", "page-title", LongestTitle);
        var addresses = new PageAddresses(policy, around.Reserved);
        if (addresses.TakenBy(address ?? "", addresses.Answers, id) is var (code, by))
        {
            faults.Bad("address", code, address, by, Free(addresses, address ?? "", id));
        }

        var old = policy.Graph.Find(id);
        // One that says the very same came with a site file, or was left over: it is taken over.
        if (isNew && old is not null && !(old.Addresses is [var only] && only.Text == matches))
        {
            faults.Bad("key", "page-item-exists", id);
        }

        if (faults.Any)
        {
            return (null, []);
        }

        var more = old is null || isNew ? [] : old.Addresses.Skip(1).Select(a => a.Text);
        var draft = new ItemDraft(id.ToString(), title, parents, [matches, .. more]);
        if (old is not null && ItemDraft.Of(old) is var said && said.Title == draft.Title && said.Parents!.SequenceEqual(parents)
            && said.Addresses!.SequenceEqual(draft.Addresses!))
        {
            return (null, []);
        }

        var edit = old is null ? ItemCommands.Add(policy.Graph, draft, around.Reserved) : ItemCommands.Set(policy.Graph, id, draft, null, around.Reserved);
        return (edit, edit.Problem is null ? edit.Value.ToStore.Changes : []);
    }

    private static (Problem? Problem, IReadOnlyList<Change> Changes) Dropped(Policy policy, ItemId id, Func<ItemId, string?> gateNaming)
    {
        if (policy.Graph.Find(id) is null)
        {
            return (null, []);
        }

        var edit = ItemCommands.Remove(policy.Graph, id, null, gateNaming);
        return edit.Problem is { } problem ? (problem, []) : (null, edit.Value.ToStore.Changes);
    }

    private static string Free(PageAddresses addresses, string wanted, ItemId id)
    {
        var start = "/" + string.Concat(wanted.Trim('/').Where(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '/').Take(60));
        string[] near = ["/" + id.Key, start, $"{start.TrimEnd('/')}-{id.Key}"];
        return near.Concat(Enumerable.Range(2, 50).Select(n => $"/{id.Key}-{n}")).FirstOrDefault(a => addresses.TakenBy(a, addresses.Answers, id) is null)
            ?? "";
    }

    private static bool IsLine(string? text, int most) => text is null || (text.Length <= most && PlainText.IsClean(text.Trim()));

    private static string? Line(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();

    private static Problem? Stale(int? seen, int there, string what) =>
        seen is { } version && version != there ? Problem.Of(ProblemKind.Stale, "stale", what) : null;

    private static Problem Unknown(Policy policy, string key) =>
        Problem.Of(ProblemKind.NotFound, "page-unknown-hosted", key, Nearest.To(key, HostedBook.Of(policy).Pages.Select(p => p.Key)) ?? "");
}
