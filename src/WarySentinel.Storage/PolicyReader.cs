using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Letters;
using WarySentinel.Core.Files;
using WarySentinel.Core.Hosted;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Prices;
using WarySentinel.Core.Redirects;
using WarySentinel.Storage.Access;
using WarySentinel.Storage.Catalogue;
using WarySentinel.Storage.Facts;
using WarySentinel.Storage.Gates;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Reads what a policy is built from. A row that cannot be read is told of, with what it covered; it never ends the reading.</summary>
internal sealed class PolicyReader(StoreContext db)
{
    private const string SettingsMark = "settings";
    private readonly List<StoredFault> faults = [];

    /// <summary>Everything of one moment.</summary>
    public async Task<StoredPolicy> ReadAsync(long revision, EarlyItems? early, CancellationToken stop)
    {
        var items = await ItemsAsync(early, stop);
        var gates = await GatesAsync(stop);
        var standings = new List<FactDefinition>();
        foreach (var row in await StraightRows.ReadAsync(
            db.Database.GetDbConnection(), db.Database.CurrentTransaction?.GetDbTransaction(), FactDefinitionRow.Columns, FactDefinitionRow.Read, stop)
            ?? await RowsAsync("standing", db.Definitions, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop))
        {
            Take(row.ToDefinition(), standings);
        }

        var rules = GroupRuleRow.Read(
            await RowsAsync("group-rule", db.GroupRules, r => r.Group, (k, q) => q.Where(r => r.Group == k), stop, true), gates, faults);
        var redirects = new List<Redirect>();
        foreach (var row in await RowsAsync("redirect", db.Redirects, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop))
        {
            Take(row.ToRedirect(), redirects);
        }

        var entries = new List<EntryRule>();
        foreach (var row in await RowsAsync("entry", db.Entries, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop, true))
        {
            Take(row.ToRule(), entries);
        }

        var templates = new List<LetterTemplate>();
        foreach (var row in await RowsAsync(
            "letter-template", db.LetterTemplates, r => r.Kind + "." + r.Language, (k, q) => q.Where(r => r.Kind + "." + r.Language == k), stop))
        {
            Take(row.ToTemplate(), templates);
        }

        var asks = new List<PasswordAsk>();
        foreach (var row in await RowsAsync("password", db.SharedPasswords, r => r.Id, (k, q) => q.Where(r => r.Id == k), stop))
        {
            asks.Add(row.ToPassword().Ask);
            faults.AddRange(row.Fault() is { } fault ? [fault] : []);
        }

        var forms = FormBodies.Book(
            await RowsAsync("field", db.Fields, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop),
            await RowsAsync("form", db.Forms, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop), faults);
        var terms = TermsBodies.Book(
            await RowsAsync("terms", db.Terms, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop),
            await RowsAsync("terms-text", db.TermsTexts, r => r.Terms + " " + r.Number, (k, q) => q.Where(r => r.Terms + " " + r.Number == k), stop), faults);
        var directory = DirectoryRow.Read(await RowsAsync("directory", db.Directory, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop), faults);
        var texts = new List<SiteTexts>();
        (await RowsAsync("texts", db.Texts, r => r.Language, (k, q) => q.Where(r => r.Language == k), stop)).ForEach(r => Take(r.ToTexts(), texts));
        var pages = new List<PageSetting>();
        (await RowsAsync("page", db.Pages, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToSetting(), pages));
        var (sections, hosted) = (new List<HostedSection>(), new List<HostedPage>());
        (await RowsAsync("section", db.Sections, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToSection(), sections));
        (await RowsAsync("hosted-page", db.HostedPages, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToPage(), hosted));
        var (fulfilment, sources) = (new List<FulfilmentRule>(), new List<OrderSource>());
        (await RowsAsync("fulfilment", db.Fulfilment, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToRule(), fulfilment));
        (await RowsAsync("order-source", db.OrderSources, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToSource(), sources));
        var areas = new List<Area>();
        (await RowsAsync("area", db.Areas, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToArea(), areas));
        var shows = new List<Show>();
        (await RowsAsync("show", db.Shows, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToShow(), shows));
        var (prices, coupons, carts) = (new List<PriceList>(), new List<Coupon>(), new List<Cart>());
        (await RowsAsync("price", db.PriceLists, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToList(), prices));
        (await RowsAsync("coupon", db.Coupons, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop)).ForEach(r => Take(r.ToCoupon(), coupons));
        (await RowsAsync("cart", db.Carts, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop, true)).ForEach(r => Take(r.ToCart(), carts));
        var settings = await SettingsAsync(stop);
        return new StoredPolicy(revision, items, gates, standings, settings,
            PolicyParts.Of(new RedirectBook(redirects), new PasswordAsks(asks), rules, new LetterBook(templates), forms, terms, directory,
                new EntryBook(entries), new TextBook(texts), new PageBook(pages), new HostedBook(sections, hosted),
                new FulfilmentBook(fulfilment), new OrderSourceBook(sources), new AreaBook(areas), new ShowBook(shows),
                new PriceBook(prices), new CouponBook(coupons), new CartBook(carts)), faults);
    }

    private async Task<List<Item>> ItemsAsync(EarlyItems? early, CancellationToken stop)
    {
        var connection = db.Database.GetDbConnection();
        var read = early?.Read ?? await ItemReading.StraightAsync(connection, db.Database.CurrentTransaction?.GetDbTransaction(), stop);
        if (read is null)
        {
            var batches = ItemReading.NewBatches();
            (await RowsAsync("item", db.Items, r => r.Id, (k, q) => q.Where(r => r.Id == k), stop, true)).ForEach(r => batches.Add(r));
            read = await batches.AllAsync();
        }

        var items = new List<Item>(read.Count);
        read.ForEach(one => Take(one, items));
        return items;
    }

    private async Task<List<Gate>> GatesAsync(CancellationToken stop)
    {
        var gates = new List<Gate>();
        var rows = await RowsAsync("gate", db.Gates, r => r.Key, (k, q) => q.Where(r => r.Key == k), stop, true);
        var read = new (Gate, StoredFault?)[rows.Count];
        Parallel.For(0, rows.Count, new ParallelOptions { CancellationToken = stop }, i => read[i] = rows[i].ToGate());
        foreach (var (gate, fault) in read)
        {
            gates.Add(gate);
            faults.AddRange(fault is null ? [] : [fault]);
        }

        gates.AddRange(faults.Where(f => f.Kind == "gate" && gates.TrueForAll(g => g.Key != f.Key)).ToList().Select(f => GateRow.Lost(f.Key, f.Reason).Gate));
        return gates;
    }

    private void Take<T>((T? Value, StoredFault? Fault) read, List<T> to)
        where T : class
    {
        to.AddRange(read.Value is null ? [] : [read.Value]);
        faults.AddRange(read.Fault is null ? [] : [read.Fault]);
    }

    /// <summary>All rows of a table; where one cannot even be taken out of its columns, one by one.</summary>
    private async Task<List<TRow>> RowsAsync<TRow, TKey>(
        string kind, DbSet<TRow> table, System.Linq.Expressions.Expression<Func<TRow, TKey>> key, Func<TKey, IQueryable<TRow>, IQueryable<TRow>> one,
        CancellationToken stop, bool guards = false)
        where TRow : class
    {
        try
        {
            return await table.AsNoTracking().ToListAsync(stop);
        }
        catch (Exception fault) when (StraightRows.IsUnreadable(fault))
        {
            var good = new List<TRow>();
            foreach (var name in await table.AsNoTracking().Select(key).ToListAsync(stop))
            {
                try
                {
                    good.AddRange(await one(name, table.AsNoTracking()).ToListAsync(stop));
                }
                catch (Exception bad) when (StraightRows.IsUnreadable(bad))
                {
                    var reason = Wording.Of("stored.row", bad.Message);
                    faults.Add(guards ? StoredFault.OfSite(kind, name!.ToString()!, reason) : StoredFault.Harmless(kind, name!.ToString()!, reason));
                }
            }

            return good;
        }
    }

    /// <summary>The settings, field by field where they cannot be read whole. Those that say how paths are read guard everything.</summary>
    private async Task<SiteSettings> SettingsAsync(CancellationToken stop)
    {
        var text = await db.Marks.AsNoTracking().Where(m => m.Name == SettingsMark).Select(m => m.Text).FirstOrDefaultAsync(stop);
        if (text is null)
        {
            return new SiteSettings();
        }

        try
        {
            if (JsonSerializer.Deserialize<SiteSettings>(text) is { } whole
                && whole is
                {
                    Look: not null, Paths.IndexNames: not null, Crawlers: not null, Sweep: not null, Letters: not null, Joining:
                    {
                        Blocked: not null,
                        Trusted: not null
                    }, SiteName: not null,
                    TimeZone: not null, Language: not null
                })
            {
                return whole;
            }
        }
        catch (JsonException)
        {
            // Field by field, below.
        }

        return ByField(text);
    }

    private SiteSettings ByField(string text)
    {
        if (FieldsOf(text) is not { } fields)
        {
            faults.Add(StoredFault.OfSite("settings", "settings", Wording.Of("stored.row", text.Length > 60 ? text[..60] + "…" : text)));
            return new SiteSettings { Presence = Presence.Hidden };
        }

        var settings = new SiteSettings();
        foreach (var property in typeof(SiteSettings).GetProperties().Where(p => fields.ContainsKey(p.Name)))
        {
            try
            {
                property.SetValue(settings, ValueOf(property, fields));
            }
            catch (JsonException)
            {
                var reason = Wording.Of("stored.value", property.Name + ": " + fields[property.Name]?.ToJsonString());
                var guards = property.Name is nameof(SiteSettings.Paths) or nameof(SiteSettings.StaffPasses) or nameof(SiteSettings.Presence);
                faults.Add(guards ? StoredFault.OfSite("settings", property.Name, reason) : StoredFault.Harmless("settings", property.Name, reason));
            }
        }

        return settings;
    }

    private static JsonObject? FieldsOf(string text)
    {
        try
        {
            return JsonNode.Parse(text) as JsonObject;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private static object? ValueOf(System.Reflection.PropertyInfo property, JsonObject fields)
    {
        var alone = new JsonObject { [property.Name] = fields[property.Name]?.DeepClone() };
        var value = property.GetValue(alone.Deserialize<SiteSettings>());
        var optional = new System.Reflection.NullabilityInfoContext().Create(property).ReadState == System.Reflection.NullabilityState.Nullable;
        return (value is null && !optional) || value is PathRules { IndexNames: null } ? throw new JsonException(property.Name) : value;
    }
}
