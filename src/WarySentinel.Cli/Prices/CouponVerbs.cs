using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Prices;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Prices;

/// <summary><c>wary coupon list|set|uses|use|return|remove</c> and <c>wary cart list|set|remove</c>.</summary>
internal static class CouponVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The coupon's key." };
    private static readonly Argument<string> Code = new("code") { Description = "What was typed." };
    private static readonly Argument<string> Order = new("order") { Description = "The shop's name for the order." };
    private static readonly Argument<string> CartKey = new("key") { Description = "The cart's key." };
    private static readonly Option<string?> Typed = new("--code") { Description = "What is typed in the cart; its key in capital letters unless said." };
    private static readonly Option<string?> Title = new("--title") { Description = "What people call it." };
    private static readonly Option<string?> For = new("--for") { Description = "Who may use it, such as role:dealer; anyone unless said." };
    private static readonly Option<string?> Off = new("--off") { Description = "What it takes off: 10% or 5.00." };
    private static readonly Option<string?> Currency = new("--currency") { Description = "The currency of an amount (ISO 4217)." };
    private static readonly Option<string[]> Items = new("--items")
    { Description = "What it counts for; everything unless said.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string?> From = new("--from") { Description = "Since when it counts; “never” for always." };
    private static readonly Option<string?> Until = new("--until") { Description = "Until when it counts; “never” for always." };
    private static readonly Option<string?> PerPerson = new("--per-person")
    { Description = "How often one person uses it: a number, or any; once unless said." };
    private static readonly Option<int?> Most = new("--most") { Description = "How often it is used by all together; 0 for any number of times." };
    private static readonly Option<string?> Who = new("--who") { Description = "Who pays: a member's address; or the address of whoever is none." };
    private static readonly Option<string[]> At = new("--at")
    { Description = "The addresses to which the shop's forms and scripts send.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string[]> Fields = new("--fields")
    { Description = "The fields that name what is bought; a star in one stands for anything.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string?> Item = new("--item")
    { Description = "What a value stands for: product:{value} (usual), or an address such as /shop/item?id={value}." };
    private static readonly Option<string?> Unknown = new("--unknown") { Description = "What becomes of what the catalogue does not have: refuse or pass." };

    public static IEnumerable<Command> Build()
    {
        var coupon = new Command("coupon", "Codes that take something off a cart, for whom they are given to.");
        coupon.Subcommands.Add(new Command("list", "All coupons.").Does(async call => List(call, await call.Client.CouponsAsync(call.Stop))));
        coupon.Subcommands.Add(With(
            With(new Command("set", "Add one, or change one; what you leave out stays."), Key), Typed, Title, For, Off, Currency, Items, From, Until, PerPerson,
            Most).Does(SetAsync));
        coupon.Subcommands.Add(With(new Command("uses", "Who used one, newest first."), Key).Does(UsesAsync));
        coupon.Subcommands.Add(With(With(new Command("use", "Use one for an order. Said again, nothing is used twice."), Code, Order), Who).Does(UseAsync));
        coupon.Subcommands.Add(With(new Command("return", "Give the use of an order back."), Key, Order).Does(async call =>
        {
            await call.Client.ReturnCouponAsync(call.Get(Key), call.Get(Order), call.Stop);
            return call.Out.Say(new { returned = call.Get(Order) }, $"The order [bold]{Markup.Escape(call.Get(Order))}[/] no longer uses it.");
        }));
        coupon.Subcommands.Add(With(new Command("remove", "Remove one."), Key).Does(async call =>
        {
            await call.Client.RemoveCouponAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the coupon [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        yield return coupon;
        var cart = new Command("cart", "Where the shop takes things into a cart: the gateway refuses what may not be bought.");
        cart.Subcommands.Add(new Command("list", "All of them.").Does(async call => call.Out.Table(
            await call.Client.CartsAsync(call.Stop), "No cart yet: wary cart set shop --at /cart/add --fields sku.", ("key", c => c.Key),
            ("addresses", c => string.Join(' ', c.At)), ("fields", c => string.Join(' ', c.Fields)), ("item", c => c.Item), ("unknown", c => c.Unknown))));
        cart.Subcommands.Add(With(With(new Command("set", "Add one, or change one; what you leave out stays."), CartKey), At, Fields, Item, Unknown)
            .Does(SetCartAsync));
        cart.Subcommands.Add(With(new Command("remove", "Remove one: what goes there is not looked at any more."), CartKey).Does(async call =>
        {
            await call.Client.RemoveCartAsync(call.Get(CartKey), call.Stop);
            return call.Out.Say(new { removed = call.Get(CartKey) }, $"Removed the cart [bold]{Markup.Escape(call.Get(CartKey))}[/].");
        }));
        yield return cart;
    }

    private static int List(Call call, IReadOnlyList<CouponView> all) => call.Out.Table(
        all, "No coupons yet: wary coupon set NAME --off 10% --for role:NAME.", ("key", c => c.Key), ("code", c => c.Code), ("for", c => c.Audience),
        ("off", c => c.Off is { } off ? off + " %" : $"{c.Amount} {c.Currency}"), ("per person", c => Often(c.PerPerson)),
        ("used", c => c.Most is { } most ? $"{c.Used} of {most}" : c.Used.ToString(CultureInfo.InvariantCulture)),
        ("counts", c => PriceVerbs.Span(c.From, c.Until)));

    private static string Often(int? times) => times switch { null => "any number of times", 1 => "once", var many => $"{many} times" };

    private static async Task<int> SetAsync(Call call)
    {
        var key = call.Get(Key);
        var (old, tag) = await Call.OldAsync(call.Client.CouponAsync(key, call.Stop));
        var off = call.Get(Off) ?? (old?.Off is { } percent ? percent + "%" : old?.Amount);
        var isPercent = off?.EndsWith('%') == true;
        var items = call.Get(Items);
        var draft = new CouponDraft(
            call.Get(Typed) ?? old?.Code, call.Get(Title) ?? old?.Title, call.Get(For) ?? old?.Audience, isPercent ? off![..^1] : null, isPercent ? null : off,
            isPercent ? null : call.Get(Currency) ?? old?.Currency, items is { Length: > 0 } ? items : old?.Items, call.Dated(From, old?.From),
            call.Dated(Until, old?.Until), call.Get(PerPerson) ?? (old is null ? null : old.PerPerson?.ToString(CultureInfo.InvariantCulture) ?? "any"),
            call.Get(Most) is { } most ? most == 0 ? null : most : old?.Most);
        var put = await call.Client.PutCouponAsync(key, draft, tag, call.Stop);
        var worth = put.Off is { } taken ? taken + " %" : $"{put.Amount} {put.Currency}";
        return call.Out.Say(
            put, $"[bold]{Markup.Escape(put.Code)}[/] takes {worth} off for {Markup.Escape(put.Audience)}, {Often(put.PerPerson)} for one person.");
    }

    private static async Task<int> UsesAsync(Call call)
    {
        var (all, after) = (new List<CouponUseView>(), (string?)null);
        do
        {
            var page = await call.Client.CouponUsesAsync(call.Get(Key), after, call.Stop);
            all.AddRange(page.Items);
            after = page.Next;
        }
        while (after is not null);
        return call.Out.Table(
            all, "Nobody has used it yet.", ("order", u => u.Order), ("who", u => u.Person),
            ("at", u => u.At.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)),
            ("off", u => u.Discount is { } off ? $"{off} {u.Currency}" : ""));
    }

    private static async Task<int> UseAsync(Call call)
    {
        var used = await call.Client.UseCouponAsync(new CouponUseDraft(call.Get(Code), call.Get(Order), null, call.Get(Who)), call.Stop);
        return call.Out.Say(used, $"The order [bold]{Markup.Escape(used.Order)}[/] uses the coupon {Markup.Escape(used.Coupon)}.");
    }

    private static async Task<int> SetCartAsync(Call call)
    {
        var key = call.Get(CartKey);
        var (old, tag) = await Call.OldAsync(call.Client.CartAsync(key, call.Stop));
        var (at, fields) = (call.Get(At), call.Get(Fields));
        var draft = new CartDraft(
            at is { Length: > 0 } ? at : old?.At, fields is { Length: > 0 } ? fields : old?.Fields, call.Get(Item) ?? old?.Item,
            call.Get(Unknown) ?? old?.Unknown);
        var put = await call.Client.PutCartAsync(key, draft, tag, call.Stop);
        return call.Out.Say(
            put, $"What goes to {Markup.Escape(string.Join(", ", put.At))} is looked at by {Markup.Escape(string.Join(", ", put.Fields))}; "
            + (put.Unknown == "pass" ? "what the catalogue does not have passes." : "what the catalogue does not have is refused."));
    }
}
