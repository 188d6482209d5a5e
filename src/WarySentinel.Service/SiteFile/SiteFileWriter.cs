using System.Globalization;
using System.Text.Json;
using WarySentinel.Core.Files;
using WarySentinel.Core.Prices;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Letters;
using WarySentinel.Core.Pages;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;
using WarySentinel.Core.Redirects;
using YamlDotNet.Core;
using YamlDotNet.Core.Events;

namespace WarySentinel.Service.SiteFile;

/// <summary>Writes a site file. What says only what is usual is left out, so that people can read it.</summary>
public sealed class SiteFileWriter
{
    private readonly Emitter yaml;

    private SiteFileWriter(TextWriter to) => yaml = new Emitter(to, new EmitterSettings(2, 1_000_000, false, 1024, false));

    /// <summary>Writes everything that a site file can hold.</summary>
    /// <param name="policy">What is written.</param>
    /// <param name="schema">The address of the schema, for editors.</param>
    /// <param name="to">Where it goes.</param>
    public static void Write(Policy policy, string schema, TextWriter to)
    {
        to.Write($"# yaml-language-server: $schema={schema}\n");
        new SiteFileWriter(to).Write(policy);
    }

    private void Write(Policy policy)
    {
        yaml.Emit(new StreamStart());
        yaml.Emit(new DocumentStart(null, null, true));
        Open();
        Pair("version", "1");
        foreach (var (section, kind) in new[] { ("roles", FactKind.Role), ("groups", FactKind.Group), ("plans", FactKind.Plan), ("passKinds", FactKind.Pass) })
        {
            List(section, policy.Definitions.Where(s => s.Kind == kind), standing =>
            {
                Pair("key", standing.Key);
                Pair("title", standing.Title);
                Pair("home", standing.Home);
                Pair("length", standing.Length?.ToString());
                Pair("grace", standing.Grace?.ToString());
                Pair("remind", standing.Remind?.ToString());
                Pair("starts", standing.Starts == PlanStart.AtOnce ? null : FactDraft.StartNames[(int)standing.Starts]);
                Links(standing.Links);
                Pair("rule", kind == FactKind.Group ? policy.Rules.Written.GetValueOrDefault(standing.Key)?.ToString() : null);
            });
        }

        List("items", policy.Graph.Items.Where(i => i.Id != ItemId.Site || i.Version > 0).OrderBy(i => i.Id), item =>
        {
            var draft = ItemDraft.Of(item);
            Pair("id", draft.Id);
            Pair("title", draft.Title);
            Texts("parents", draft.Parents);
            Texts("addresses", draft.Addresses);
        });
        List("gates", policy.Gates.Where(g => !g.IsExemption && !g.StandsIn), Gate);
        List("exemptions", policy.Gates.Where(g => g.IsExemption), Gate);
        List("redirects", policy.Parts.Of<RedirectBook>().All, redirect =>
        {
            var draft = RedirectDraft.Of(redirect);
            Pair("key", draft.Key);
            Pair("on", draft.On);
            Pair("audience", draft.Audience);
            Pair("to", draft.To);
            Pair("position", draft.Position?.ToString(CultureInfo.InvariantCulture));
            Pair("insists", redirect.Insists ? "true" : null);
        });
        List("fulfilment", FulfilmentBook.Of(policy).All.OrderBy(r => r.Key, StringComparer.Ordinal), rule =>
        {
            var draft = FulfilmentDraft.Of(rule);
            Pair("key", draft.Key);
            Pair("code", draft.Code);
            Texts("gives", draft.Gives);
            Pair("length", draft.Length);
            Pair("trial", draft.Trial);
            Pair("way", rule.Way == FulfilmentWay.Account ? null : draft.Way);
            Pair("quantity", rule.Quantity == QuantityMeaning.Nothing ? null : draft.Quantity);
            Pair("most", draft.Most?.ToString(CultureInfo.InvariantCulture));
            Pair("landsOn", draft.LandsOn);
            Pair("gate", draft.Gate);
        });
        List("areas", AreaBook.Of(policy).All, area =>
        {
            var draft = AreaDraft.Of(area);
            Pair("key", draft.Key);
            Pair("title", draft.Title);
            Pair("item", draft.Item);
            Pair("folder", draft.Folder);
            Pair("opens", area.Opens == AreaOpens.Gate ? null : draft.Opens);
            Pair("every", draft.Every);
            Pair("overlap", draft.Overlap);
        });
        Trees("shows", ShowBook.Of(policy).All.Select(ShowDraft.Of));
        Trees("prices", PriceBook.Of(policy).All.Select(l => PriceDraft.Of(l with { Lines = [.. l.Lines.Where(x => policy.Graph.PlaceOf(x.Item) >= 0)] })));
        Trees("coupons", CouponBook.Of(policy).All.Select(CouponDraft.Of));
        Trees("carts", CartBook.Of(policy).All.Where(c => c.Fields.Count > 0).Select(CartDraft.Of));
        List("entries", EntryBook.Of(policy).All.Where(r => !r.IsUnreadable), rule =>
        {
            var draft = EntryDraft.Of(rule);
            Pair("key", draft.Key);
            Texts("at", draft.At);
            Pair("sort", draft.Sort);
            Pair("entry", draft.Entry);
            Pair("link", draft.Link);
            Pair("price", draft.Price);
            Pair("about", draft.About);
            Pair("behind", draft.Behind);
            Pair("blank", draft.Blank is true ? "true" : null);
            Texts("beside", draft.Beside);
            Texts("points", draft.Points);
        });
        Trees("terms", TermsBook.Of(policy).All.Select(t => t.ToDraft()));
        Trees("visitorPages", PageBook.Of(policy).All.Select(PageDraft.Of));
        Trees("texts", TextBook.Of(policy).All.Select(t => t.ToDraft()));
        Trees("fields", FormBook.Of(policy).Fields.Select(f => f.Draft));
        Trees("forms", FormBook.Of(policy).Forms.Select(f => f.Draft));
        Tree("site", SiteDraft.Of(policy.Settings));
        Tree("look", LookDraft.Of(policy.Settings.Look));
        Tree("joining", JoiningDraft.Of(policy.Settings.Joining));
        if (MemberDirectory.Of(policy) is { Version: > 0 } directory)
        {
            Tree("directory", directory.ToDraft());
        }

        List("letters", LetterBook.Of(policy).All, template =>
        {
            Pair("kind", template.Kind);
            Pair("language", template.Language);
            Pair("subject", template.Subject);
            Pair("html", template.Html);
            Pair("text", template.Text);
        });
        yaml.Emit(new MappingEnd());
        yaml.Emit(new DocumentEnd(true));
        yaml.Emit(new StreamEnd());
    }

    private void Gate(Gate gate)
    {
        var draft = GateDraft.Of(gate);
        Pair("key", draft.Key);
        Pair("title", draft.Title);
        Texts("covers", draft.Covers);
        Pair("reach", draft.Reach == "branch" ? null : draft.Reach);
        Pair("audience", draft.Audience);
        if (!gate.IsExemption)
        {
            Texts("acts", gate.Acts == Acts.Usual ? null : draft.Acts);
            Pair("presence", draft.Presence == "default" ? null : draft.Presence);
            Pair("answer", draft.Answer == "auto" ? null : draft.Answer);
            Pair("message", draft.Message);
            Inside("link", draft.Link is null ? null : [("address", draft.Link.Address), ("words", draft.Link.Words)]);
            Pair("redirectTo", draft.RedirectTo);
        }

        Pair("from", draft.From);
        Pair("until", draft.Until);
        Pair("enabled", gate.Enabled ? null : "false");
        if (!gate.IsExemption)
        {
            Pair("unlockFor", gate.UnlockFor == Core.Access.Gate.UsualUnlock ? null : draft.UnlockFor);
            Pair("basic", gate.Basic == Core.Access.BasicUse.No ? null : draft.Basic);
            Inside("prompt", draft.Prompt is not { } p ? null
                : [("heading", p.Heading), ("text", p.Text), ("label", p.Label), ("placeholder", p.Placeholder), ("button", p.Button)]);
            if (draft.Rotation is { } rotation)
            {
                Word("rotation");
                Open();
                Pair("every", rotation.Every);
                Pair("overlap", rotation.Overlap);
                Texts("tell", rotation.Tell);
                yaml.Emit(new MappingEnd());
            }
        }
    }

    private void Tree<T>(string section, T one)
    {
        Word(section);
        WrittenForms.Write(yaml.Emit, JsonSerializer.SerializeToNode(one, Detail.Written)!);
    }

    private void Trees<T>(string section, IEnumerable<T> all)
    {
        Word(section);
        yaml.Emit(new SequenceStart(AnchorName.Empty, TagName.Empty, true, SequenceStyle.Block));
        foreach (var one in all)
        {
            WrittenForms.Write(yaml.Emit, JsonSerializer.SerializeToNode(one, Detail.Written)!);
        }

        yaml.Emit(new SequenceEnd());
    }

    private void List<T>(string section, IEnumerable<T> all, Action<T> write)
    {
        Word(section);
        yaml.Emit(new SequenceStart(AnchorName.Empty, TagName.Empty, true, SequenceStyle.Block));
        foreach (var one in all)
        {
            Open();
            write(one);
            yaml.Emit(new MappingEnd());
        }

        yaml.Emit(new SequenceEnd());
    }

    private void Links(IReadOnlyList<MenuLink> links)
    {
        if (links.Count > 0)
        {
            List("links", links, link =>
            {
                Pair("address", link.Address);
                Pair("words", link.Words);
            });
        }
    }

    private void Inside(string name, (string Name, string? Value)[]? pairs)
    {
        if (pairs is null)
        {
            return;
        }

        Word(name);
        Open();
        foreach (var (key, value) in pairs)
        {
            Pair(key, value);
        }

        yaml.Emit(new MappingEnd());
    }

    private void Pair(string name, string? value)
    {
        if (value is not null)
        {
            Word(name);
            // A value that reads as something else than words must stand in quotes, unless it is meant so.
            var bare = name is "version" or "position" or "enabled" or "insists" or "from" or "until";
            var plain = bare || !(value.Length == 0 || value is "~" or "null" or "true" or "false");
            yaml.Emit(new Scalar(AnchorName.Empty, TagName.Empty, value, value.Contains('\n', StringComparison.Ordinal) ? ScalarStyle.Literal : plain
                ? ScalarStyle.Any : ScalarStyle.DoubleQuoted, true, true));
        }
    }

    private void Texts(string name, IReadOnlyList<string>? values)
    {
        if (values is not { Count: > 0 })
        {
            return;
        }

        Word(name);
        yaml.Emit(new SequenceStart(AnchorName.Empty, TagName.Empty, true, SequenceStyle.Flow));
        foreach (var value in values)
        {
            yaml.Emit(new Scalar(value));
        }

        yaml.Emit(new SequenceEnd());
    }

    private void Open() => yaml.Emit(new MappingStart(AnchorName.Empty, TagName.Empty, true, MappingStyle.Block));

    private void Word(string name) => yaml.Emit(new Scalar(name));
}
