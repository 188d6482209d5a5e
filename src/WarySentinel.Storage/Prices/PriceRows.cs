using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Prices;

namespace WarySentinel.Storage.Prices;

/// <summary>What the rows of this room share: a body as people write it.</summary>
internal static class PriceBodies
{
    private const int MostShown = 200;

    public static string Write<T>(T draft) => JsonSerializer.Serialize(draft, Detail.Written);

    public static T? Read<T>(string body)
        where T : class
    {
        try
        {
            return JsonSerializer.Deserialize<T>(body, Detail.Written);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    public static StoredFault FaultOf(string kind, string key, string body) =>
        StoredFault.Harmless(kind, key, Wording.Of("stored.value", body.Length > MostShown ? body[..MostShown] : body));
}

/// <summary>A price list.</summary>
internal sealed class PriceListRow
{
    public required string Key { get; set; }

    public required string Audience { get; set; }

    /// <summary>The list as people write it, but for its audience.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static PriceListRow Of(PriceList list) => new()
    {
        Key = list.Key, Audience = list.Audience.ToString()!, Body = PriceBodies.Write(PriceDraft.Of(list) with { Audience = null }), Version = list.Version,
    };

    /// <summary>The list, or what of it cannot be read: such a list says nothing.</summary>
    public (PriceList? List, StoredFault? Fault) ToList() =>
        PriceBodies.Read<PriceDraft>(Body) is { } draft && (draft with { Key = Key, Audience = Audience }).Read(null, null, "UTC") is { IsGood: true } read
            ? (read.Value with { Version = Version }, null) : (null, PriceBodies.FaultOf("price", Key, Body));

    public static void Map(EntityTypeBuilder<PriceListRow> e)
    {
        e.ToTable("price_lists");
        e.HasKey(r => r.Key);
    }
}

/// <summary>A coupon.</summary>
internal sealed class CouponRow
{
    public required string Key { get; set; }

    public required string Audience { get; set; }

    /// <summary>The coupon as people write it, but for its audience.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static CouponRow Of(Coupon coupon) => new()
    {
        Key = coupon.Key, Audience = coupon.Audience.ToString()!, Body = PriceBodies.Write(CouponDraft.Of(coupon) with { Audience = null }),
        Version = coupon.Version,
    };

    /// <summary>The coupon, or what of it cannot be read: nobody uses such a one.</summary>
    public (Coupon? Coupon, StoredFault? Fault) ToCoupon() =>
        PriceBodies.Read<CouponDraft>(Body) is { } draft && (draft with { Key = Key, Audience = Audience }).Read(null, null, "UTC") is { IsGood: true } read
            ? (read.Value with { Version = Version }, null) : (null, PriceBodies.FaultOf("coupon", Key, Body));

    public static void Map(EntityTypeBuilder<CouponRow> e)
    {
        e.ToTable("coupons");
        e.HasKey(r => r.Key);
    }
}

/// <summary>A cart.</summary>
internal sealed class CartRow
{
    public required string Key { get; set; }

    /// <summary>The addresses, one on each line: what stands in the body may not be readable, and where it counts is known all the same.</summary>
    public required string At { get; set; }

    public required string Body { get; set; }

    public int Version { get; set; }

    public static CartRow Of(Cart cart) => new()
    { Key = cart.Key, At = string.Join('\n', cart.At), Body = PriceBodies.Write(CartDraft.Of(cart)), Version = cart.Version };

    /// <summary>The cart. One that cannot be read lets nothing through at its addresses.</summary>
    public (Cart? Cart, StoredFault? Fault) ToCart()
    {
        var at = At.Split('\n');
        if (PriceBodies.Read<CartDraft>(Body) is { } draft && (draft with { Key = Key, At = at }).Read() is { IsGood: true } read)
        {
            return (read.Value with { Version = Version }, null);
        }

        var closed = at.Select(a => Core.Catalogue.Address.TryParse(a, out var address, out _) ? address : null).OfType<Core.Catalogue.Address>().ToList();
        return (closed.Count == 0 ? null : new Cart { Key = Key, At = closed, Fields = [], Version = Version }, PriceBodies.FaultOf("cart", Key, Body));
    }

    public static void Map(EntityTypeBuilder<CartRow> e)
    {
        e.ToTable("carts");
        e.HasKey(r => r.Key);
    }
}

/// <summary>A use of a coupon.</summary>
internal sealed class CouponUseRow
{
    public Guid Id { get; set; }

    public required string Coupon { get; set; }

    public int Serial { get; set; }

    public required string Person { get; set; }

    public required string Order { get; set; }

    public DateTimeOffset At { get; set; }

    public long? Units { get; set; }

    public string? Currency { get; set; }

    public static CouponUseRow Of(CouponUse use) => new()
    {
        Id = use.Id, Coupon = use.Coupon, Serial = use.Serial, Person = use.Person, Order = use.Order, At = use.At, Units = use.Discount?.Units,
        Currency = use.Discount?.Currency,
    };

    public CouponUse ToUse() => new(Id, Coupon, Serial, Person, Order, At)
    { Discount = Units is { } units && Currency is { } currency ? new Money(units, currency) : null };

    public static void Map(EntityTypeBuilder<CouponUseRow> e)
    {
        e.ToTable("coupon_uses");
        e.HasKey(r => r.Id);
        e.Property(r => r.Id).ValueGeneratedNever();
        e.HasIndex(r => new { r.Coupon, r.Serial }).IsUnique();
        e.HasIndex(r => new { r.Coupon, r.Order }).IsUnique();
        e.HasIndex(r => new { r.Coupon, r.Person });
    }
}
