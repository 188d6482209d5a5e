using System.Globalization;
using WarySentinel.Core.Files;
using WarySentinel.Core.Prices;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Letters;
using WarySentinel.Core.Pages;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;
using WarySentinel.Core.Redirects;
using WarySentinel.Core.SiteFile;
using YamlDotNet.Core;
using YamlDotNet.Core.Events;

namespace WarySentinel.Service.SiteFile;

/// <summary>Reads a site file: a name that is not known, or a value of the wrong sort, is a fault with its line and column.</summary>
public sealed partial class SiteFileReader
{
    /// <summary>The sections, and the names that their entries may hold. The published schema says the same.</summary>
    public static readonly IReadOnlyDictionary<string, IReadOnlyList<string>> Known = new Dictionary<string, IReadOnlyList<string>>
    {
        ["roles"] = ["key", "title", "home", "links"],
        ["groups"] = ["key", "title", "rule"],
        ["plans"] = ["key", "title", "length", "grace", "remind", "starts"],
        ["passKinds"] = ["key", "title"],
        ["items"] = ["id", "title", "parents", "addresses"],
        ["gates"] = ["key", "title", "covers", "reach", "audience", "acts", "presence", "answer", "message", "link", "redirectTo", "from", "until",
        "enabled", "unlockFor", "basic", "prompt", "rotation"],
        ["exemptions"] = ["key", "title", "covers", "reach", "from", "until", "enabled"],
        ["redirects"] = ["key", "on", "audience", "to", "position", "insists"],
        ["fulfilment"] = ["key", "code", "gives", "length", "trial", "way", "quantity", "most", "landsOn", "gate"],
        ["areas"] = ["key", "title", "item", "folder", "opens", "every", "overlap"],
        ["shows"] = ["key", "by", "notes", "language", "picture", "episodes"],
        ["prices"] = ["key", "title", "audience", "currency", "from", "until", "rounding", "lines"],
        ["coupons"] = ["key", "code", "title", "audience", "off", "amount", "currency", "items", "from", "until", "perPerson", "most"],
        ["carts"] = ["key", "at", "fields", "item", "unknown"],
        ["entries"] = ["key", "at", "sort", "entry", "link", "price", "about", "behind", "blank", "beside", "points"],
        ["terms"] = WrittenForms.TermsNames,
        ["visitorPages"] = WrittenForms.PageNames,
        ["texts"] = WrittenForms.TextsNames,
        ["fields"] = WrittenForms.FieldNames,
        ["forms"] = WrittenForms.FormNames,
        ["site"] = WrittenForms.SiteNames,
        ["look"] = WrittenForms.LookNames,
        ["joining"] = WrittenForms.JoiningNames,
        ["directory"] = WrittenForms.DirectoryNames,
        ["letters"] = ["kind", "language", "subject", "html", "text"],
    };

    private const int MostEntries = 1_000_000;
    private readonly List<Fault> faults = [];
    private readonly Action<int> progress;
    private readonly CancellationToken cancellationToken;
    private int entries;

    private SiteFileReader(Action<int> progress, CancellationToken cancellationToken) =>
        (this.progress, this.cancellationToken) = (progress, cancellationToken);

    /// <summary>What the file says, and what is wrong with it.</summary>
    /// <param name="text">The file.</param>
    /// <param name="itemsOnly">Whether only items may stand in it, as in an import.</param>
    /// <param name="progress">Told the number of entries read so far.</param>
    /// <param name="cancellationToken">Stops the reading.</param>
    public static (SiteDocument File, IReadOnlyList<Fault> Faults) Read(
        TextReader text, bool itemsOnly, Action<int> progress, CancellationToken cancellationToken = default)
    {
        var reader = new SiteFileReader(progress, cancellationToken);
        return (reader.Run(text, itemsOnly), reader.faults);
    }

    private SiteDocument Run(TextReader text, bool itemsOnly)
    {
        var file = new SiteDocument();
        var sections = itemsOnly ? ["items"] : Known.Keys.ToList();
        try
        {
            var parser = new Parser(text);
            parser.Consume<StreamStart>();
            if (!parser.TryConsume<DocumentStart>(out _) || !parser.TryConsume<MappingStart>(out _))
            {
                faults.Add(new Fault("file", Wording.Of("apply.form", string.Join(", ", sections)), 1, 1));
                return file;
            }

            var seen = new HashSet<string>(StringComparer.Ordinal);
            while (!parser.TryConsume<MappingEnd>(out _))
            {
                file = Next(file, parser, sections, itemsOnly, seen);
                if (faults.Count > ItemCommands.MostFaults || entries > MostEntries)
                {
                    return file;
                }
            }

            if (seen.Count == 0)
            {
                faults.Add(new Fault("file", Wording.Of("apply.form", string.Join(", ", sections)), 1, 1));
            }
        }
        catch (YamlException fault)
        {
            faults.Add(new Fault("file", Wording.Of("import.yaml", (fault.InnerException ?? fault).Message), (int)fault.Start.Line, (int)fault.Start.Column));
        }

        return file;
    }

    private SiteDocument Next(SiteDocument file, Parser parser, List<string> sections, bool itemsOnly, HashSet<string> seen)
    {
        var name = YamlNode.Read(parser);
        if (!seen.Add(name.Value ?? ""))
        {
            Bad(name, "apply.twice-key", name.Value);
        }

        if (name.Value == "version" && !itemsOnly)
        {
            Version(YamlNode.Read(parser));
            return file;
        }

        if (sections.Contains(name.Value ?? ""))
        {
            return Section(file, name, parser);
        }

        Unknown(name, [.. sections, "version"]);
        YamlNode.Skip(parser);
        return file;
    }

    private void Version(YamlNode version)
    {
        if (version.Value != "1")
        {
            Bad(version, "apply.version", version.Value);
        }
    }

    private SiteDocument Section(SiteDocument file, YamlNode name, IParser parser) => name.Value switch
    {
        "roles" => file with { Roles = All(name, parser, FactDefinition) },
        "groups" => file with { Groups = All(name, parser, FactDefinition) },
        "plans" => file with { Plans = All(name, parser, FactDefinition) },
        "passKinds" => file with { PassKinds = All(name, parser, FactDefinition) },
        "items" => file with { Items = All(name, parser, Item) },
        "gates" => file with { Gates = All(name, parser, Gate) },
        "exemptions" => file with { Exemptions = All(name, parser, Gate) },
        "redirects" => file with { Redirects = All(name, parser, Redirect) },
        "fulfilment" => file with { Fulfilment = All(name, parser, Fulfilment) },
        "areas" => file with { Areas = All(name, parser, Area) },
        "shows" => file with { Shows = All(name, parser, f => f.Whole<ShowDraft>()) },
        "prices" => file with { Prices = All(name, parser, f => f.Whole<PriceDraft>()) },
        "coupons" => file with { Coupons = All(name, parser, f => f.Whole<CouponDraft>()) },
        "carts" => file with { Carts = All(name, parser, f => f.Whole<CartDraft>()) },
        "entries" => file with { Entries = All(name, parser, Entry) },
        "visitorPages" => file with { VisitorPages = All(name, parser, f => f.Whole<PageDraft>()) },
        "texts" => file with { Texts = All(name, parser, f => f.Whole<TextsDraft>()) },
        "terms" => file with { Terms = All(name, parser, f => f.Whole<TermsDraft>()) },
        "fields" => file with { Fields = All(name, parser, f => f.Whole<FieldDraft>()) },
        "forms" => file with { Forms = All(name, parser, f => f.Whole<FormDraft>()) },
        "site" => file with { Site = One<SiteDraft>(name, parser) },
        "look" => file with { Look = One<LookDraft>(name, parser) },
        "joining" => file with { Joining = One<JoiningDraft>(name, parser) },
        "directory" => file with { Directory = One<DirectoryDraft>(name, parser) },
        _ => file with { Letters = All(name, parser, Letter) },
    };

    /// <summary>What there is one of; null where nothing is written, or something is wrong with it.</summary>
    private Written<T>? One<T>(YamlNode name, IParser parser)
        where T : class
    {
        var node = YamlNode.Read(parser);
        if (node.Map is null)
        {
            if (node.Value is not null || node.List is not null)
            {
                Bad(node, "apply.map");
            }

            return null;
        }

        var before = faults.Count;
        var made = new Fields(this, node, Known[name.Value!]).Whole<T>();
        return faults.Count == before ? made : null;
    }

    private List<T> All<T>(YamlNode name, IParser parser, Func<Fields, T> make)
    {
        var all = new List<T>();
        if (!parser.TryConsume<SequenceStart>(out _))
        {
            var other = YamlNode.Read(parser);
            if (other.Value is not null || other.Map is not null)
            {
                Bad(other, "apply.list");
            }

            return all;
        }

        while (!parser.TryConsume<SequenceEnd>(out _))
        {
            var node = YamlNode.Read(parser);
            if (node.Map is null)
            {
                Bad(node, "apply.map");
                continue;
            }

            var before = faults.Count;
            var made = make(new Fields(this, node, Known[name.Value!]));
            if (faults.Count == before)
            {
                all.Add(made);
            }

            if (++entries % 10_000 == 0)
            {
                cancellationToken.ThrowIfCancellationRequested();
                progress(entries);
            }

            if (faults.Count > ItemCommands.MostFaults || entries > MostEntries)
            {
                faults.Add(new Fault("file", Wording.Of("import.too-many-rows", MostEntries), node.Line));
                throw new YamlException("Too many entries.");
            }
        }

        return all;
    }

    private static Written<FactDraft> FactDefinition(Fields f) => f.Written(new FactDraft(
        f.Text("key"), f.Text("title"), f.Text("home"),
        f.Maps("links", ["address", "words"])?.Select(l => new MenuLink(l.Text("address") ?? "", l.Text("words") ?? "")).ToList(), f.Text("rule"),
            f.Text("length"), f.Text("grace"), f.Text("remind"), f.Text("starts")));

    private static ItemDraft Item(Fields f) => new(f.Text("id"), f.Text("title"), f.Texts("parents"), f.Texts("addresses"), f.Line);

    private static Written<RedirectDraft> Redirect(Fields f) =>
        f.Written(new RedirectDraft(f.Text("key"), f.Text("on"), f.Text("audience"), f.Text("to"), f.Number("position"), f.Bool("insists")));

    private static Written<FulfilmentDraft> Fulfilment(Fields f) => f.Written(new FulfilmentDraft
    {
        Key = f.Text("key"), Code = f.Text("code"), Gives = f.Texts("gives"), Length = f.Text("length"), Trial = f.Text("trial"),
        Way = f.Text("way"), Quantity = f.Text("quantity"),
        Most = f.Number("most"), LandsOn = f.Text("landsOn"), Gate = f.Text("gate"),
    });

    private static Written<AreaDraft> Area(Fields f) => f.Written(new AreaDraft
    {
        Key = f.Text("key"), Title = f.Text("title"), Item = f.Text("item"), Folder = f.Text("folder"), Opens = f.Text("opens"), Every = f.Text("every"),
        Overlap = f.Text("overlap"),
    });

    private static Written<EntryDraft> Entry(Fields f) => f.Written(new EntryDraft
    {
        Key = f.Text("key"),
        At = f.Texts("at"),
        Sort = f.Text("sort"),
        Entry = f.Text("entry"),
        Link = f.Text("link"),
        Price = f.Text("price"),
        About = f.Text("about"),
        Behind = f.Text("behind"),
        Blank = f.Bool("blank"),
        Beside = f.Texts("beside"),
        Points = f.Texts("points"),
    });

    private static Written<WrittenTemplate> Letter(Fields f) =>
        f.Written(new WrittenTemplate(f.Text("kind"), f.Text("language"), new TemplateDraft(f.Text("subject"), f.Text("html"), f.Text("text"))));

    private static Written<GateDraft> Gate(Fields f) => f.Written(new GateDraft
    {
        Key = f.Text("key"),
        Title = f.Text("title"),
        Covers = f.Texts("covers"),
        Reach = f.Text("reach"),
        Audience = f.Text("audience"),
        Acts = f.Texts("acts"),
        Presence = f.Text("presence"),
        Answer = f.Text("answer"),
        Message = f.Text("message"),
        Link = f.Inside("link", ["address", "words"]) is { } link ? new SiteLink(link.Text("address") ?? "", link.Text("words") ?? "") : null,
        RedirectTo = f.Text("redirectTo"),
        From = f.Text("from"),
        Until = f.Text("until"),
        Enabled = f.Bool("enabled"),
        UnlockFor = f.Text("unlockFor"),
        Basic = f.Text("basic"),
        Prompt = f.Inside("prompt", ["heading", "text", "label", "placeholder", "button"]) is { } p
            ? new PromptWords(p.Text("heading"), p.Text("text"), p.Text("label"), p.Text("placeholder"), p.Text("button")) : null,
        Rotation = f.Inside("rotation", ["every", "overlap", "tell"]) is { } r ? new RotationDraft(r.Text("every"), r.Text("overlap"), r.Texts("tell")) : null,
    });

    private void Bad(YamlNode at, string word, params object?[] values) => faults.Add(new Fault("file", Wording.Of(word, values), at.Line, at.Column));

    private void Unknown(YamlNode key, IReadOnlyList<string> known)
    {
        var shown = key.Value is { Length: > 60 } ? key.Value[..60] + "…" : key.Value;
        if (Nearest.To(key.Value ?? "", known) is { } near)
        {
            Bad(key, "apply.unknown-near", shown, near);
        }
        else
        {
            Bad(key, "apply.unknown", shown, string.Join(", ", known));
        }
    }
}
