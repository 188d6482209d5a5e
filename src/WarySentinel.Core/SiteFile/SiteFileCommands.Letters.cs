using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Files;
using WarySentinel.Core.Letters;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Pages;
using WarySentinel.Core.Prices;

namespace WarySentinel.Core.SiteFile;

public sealed partial class SiteFileCommands
{
    private void Letters(IReadOnlyList<Written<WrittenTemplate>>? entries)
    {
        var book = LetterBook.Of(policy).All.ToDictionary(t => t.Name, StringComparer.Ordinal);
        var section = new Section<WrittenTemplate, TemplateDraft>(
            "letters", book.ToDictionary(t => t.Key, TemplateDraft? (t) => TemplateCommands.DraftOf(t.Value)),
            (now, draft) => TemplateCommands.Put(now, draft.Kind ?? "", draft.Language ?? "", draft.Words, templates).Match<Outcome<Made<TemplateDraft>>>(
                put => new Made<TemplateDraft>(put.ToStore, put.Value.Name, TemplateCommands.DraftOf(put.Value)), problem => problem),
            (now, name) => ToStore(TemplateCommands.Reset(now, book[name].Kind, book[name].Language)), BadWords);
        Gone(section, entries is not null, Each(section, entries, policy).Seen, policy);
    }

    /// <summary>Pages stand where items and gates, as they will be, do not.</summary>
    private void VisitorPages(IReadOnlyList<Written<PageDraft>>? entries)
    {
        if (policy.TryAfter(new Edit("apply", "", changes)) is not { IsGood: true, Value: var after })
        {
            return;
        }

        var section = new Section<PageDraft, PageDraft>(
            "visitorPages", PageBook.Of(policy).All.ToDictionary(p => p.Key, PageDraft? (p) => PageDraft.Of(p)),
            (now, draft) => PageCommands.Set(now, draft, around.Reserved).Match<Outcome<Made<PageDraft>>>(
                put => new Made<PageDraft>(put.ToStore, put.Value.Key, PageDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(PageCommands.Reset(now, key, around.Reserved)), Bad);
        Gone(section, entries is not null, Each(section, entries, after, (now, edit) => now.TryAfter(edit).Value).Seen, after);
    }

    /// <summary>Texts speak of gates, roles and links as they will be.</summary>
    /// <summary>What orders give.</summary>
    private void Fulfilment(IReadOnlyList<Written<FulfilmentDraft>>? entries, Policy after)
    {
        var section = new Section<FulfilmentDraft, FulfilmentDraft>(
            "fulfilment", FulfilmentBook.Of(policy).All.ToDictionary(r => r.Key, FulfilmentDraft? (r) => FulfilmentDraft.Of(r)),
            (now, draft) => FulfilmentCommands.Put(now, draft).Match<Outcome<Made<FulfilmentDraft>>>(
                put => new Made<FulfilmentDraft>(put.ToStore, put.Value.Key, FulfilmentDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(FulfilmentCommands.Remove(now, key)), Bad);
        Gone(section, entries is not null, Each(section, entries, after).Seen, after);
    }

    /// <summary>Folders to download from. One that is there keeps its address.</summary>
    private void Areas(IReadOnlyList<Written<AreaDraft>>? entries, Policy after)
    {
        var section = new Section<AreaDraft, AreaDraft>(
            "areas", AreaBook.Of(policy).All.ToDictionary(a => a.Key, AreaDraft? (a) => AreaDraft.Of(a)),
            (now, draft) => AreaCommands.Put(now, draft, null, Guid.CreateVersion7(), around.Now).Match<Outcome<Made<AreaDraft>>>(
                put => new Made<AreaDraft>(put.ToStore, put.Value.Key, AreaDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(AreaCommands.Remove(now, key)), Bad);
        Gone(section, entries is not null, Each(section, entries, after).Seen, after);
    }

    /// <summary>Shows, and the files of their episodes.</summary>
    private void Shows(IReadOnlyList<Written<ShowDraft>>? entries, Policy after)
    {
        var section = new Section<ShowDraft, ShowDraft>(
            "shows", ShowBook.Of(policy).All.ToDictionary(s => s.Key, ShowDraft? (s) => ShowDraft.Of(s)),
            (now, draft) => ShowCommands.Put(now, draft with { Episodes = draft.Episodes ?? [] }, null, around.Now).Match<Outcome<Made<ShowDraft>>>(
                put => new Made<ShowDraft>(put.ToStore, put.Value.Key, ShowDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(ShowCommands.Remove(now, key)), Bad);
        Gone(section, entries is not null, Each(section, entries, after).Seen, after);
    }

    /// <summary>What things cost for whom, codes that take something off, and where the cart is.</summary>
    private void Prices(SiteDocument file, Policy after, IKnownKeys known)
    {
        var prices = new Section<PriceDraft, PriceDraft>(
            "prices", PriceBook.Of(policy).All.ToDictionary(l => l.Key, PriceDraft? (l) => PriceDraft.Of(l)),
            (now, draft) => PriceCommands.Put(now, draft with { Lines = draft.Lines ?? [] }, null, known).Match<Outcome<Made<PriceDraft>>>(
                put => new Made<PriceDraft>(put.ToStore, put.Value.Key, PriceDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(PriceCommands.Remove(now, key)), Bad);
        Gone(prices, file.Prices is not null, Each(prices, file.Prices, after).Seen, after);
        var coupons = new Section<CouponDraft, CouponDraft>(
            "coupons", CouponBook.Of(policy).All.ToDictionary(c => c.Key, CouponDraft? (c) => CouponDraft.Of(c)),
            (now, draft) => CouponCommands.Put(now, draft, null, known).Match<Outcome<Made<CouponDraft>>>(
                put => new Made<CouponDraft>(put.ToStore, put.Value.Key, CouponDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(CouponCommands.Remove(now, key)), Bad);
        // A code that goes from one coupon to another is free first.
        Gone(coupons, file.Coupons is not null, Each(coupons, file.Coupons, after, (now, edit) => now.TryAfter(edit).Value).Seen, after);
        var carts = new Section<CartDraft, CartDraft>(
            "carts", CartBook.Of(policy).All.ToDictionary(c => c.Key, CartDraft? (c) => CartDraft.Of(c)),
            (now, draft) => CartCommands.Put(now, draft, null).Match<Outcome<Made<CartDraft>>>(
                put => new Made<CartDraft>(put.ToStore, put.Value.Key, CartDraft.Of(put.Value)), problem => problem),
            (now, key) => ToStore(CartCommands.Remove(now, key)), Bad);
        Gone(carts, file.Carts is not null, Each(carts, file.Carts, after).Seen, after);
    }

    private void Texts(IReadOnlyList<Written<TextsDraft>>? entries)
    {
        if (policy.TryAfter(new Edit("apply", "", changes)) is not { IsGood: true, Value: var after })
        {
            return;
        }

        var section = new Section<TextsDraft, TextsDraft>(
            "texts", TextBook.Of(policy).All.ToDictionary(t => t.Language, TextsDraft? (t) => t.ToDraft()),
            (now, draft) => TextCommands.Put(now, draft).Match<Outcome<Made<TextsDraft>>>(
                put => new Made<TextsDraft>(put.ToStore, put.Value.Language, put.Value.ToDraft()), problem => problem),
            (now, language) => ToStore(TextCommands.Reset(now, language)), Bad);
        Gone(section, entries is not null, Each(section, entries, after).Seen, after);
    }

    /// <summary>A fault inside a text of several lines stands so many lines beneath the one that the text begins on.</summary>
    private void BadWords(Written<WrittenTemplate> entry, Fault fault)
    {
        var text = fault.Field == "html" ? entry.Draft.Words.Html : fault.Field == "text" ? entry.Draft.Words.Text : null;
        if (fault.Line is { } inner && text?.Contains('\n', StringComparison.Ordinal) == true)
        {
            // As it is usually written, two columns to the right of the names.
            var (line, column) = (entry.Place(fault.Field).Line + inner, entry.Place("").Column + 1 + (fault.Column ?? 1));
            faults.Add(fault with { Line = line, Column = column, Message = fault.Message.At(line, column) });
            return;
        }

        Bad(entry, fault);
    }
}
