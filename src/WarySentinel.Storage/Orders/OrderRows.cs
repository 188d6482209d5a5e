using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;

namespace WarySentinel.Storage.Orders;

/// <summary>An order.</summary>
internal sealed class OrderRow
{
    public Guid Id { get; set; }

    public required string Source { get; set; }

    public required string Key { get; set; }

    public int Standing { get; set; }

    public int Handling { get; set; }

    public string? WaitsFor { get; set; }

    public Guid? MemberId { get; set; }

    /// <summary>The organisation whose seats it pays for.</summary>
    public Guid? OrganisationId { get; set; }

    public string Email { get; set; } = "";

    public string? Name { get; set; }

    public string Codes { get; set; } = "";

    public long? TotalUnits { get; set; }

    public string? Currency { get; set; }

    public long RefundedUnits { get; set; }

    public DateTimeOffset At { get; set; }

    public DateTimeOffset? DueAt { get; set; }

    /// <summary>What was promised, as JSON.</summary>
    public string Promises { get; set; } = "[]";

    /// <summary>What the buyer was told of, a line each.</summary>
    public string Told { get; set; } = "";

    public string? TokenDigest { get; set; }

    /// <summary>What is looked through for a word: name, address, codes, in small letters.</summary>
    public string Search { get; set; } = "";

    public int Version { get; set; }

    public static OrderRow Of(Order order) => new()
    {
        Id = order.Id, Source = order.Source, Key = order.Key, Standing = (int)order.Standing, Handling = (int)order.Handling, WaitsFor = order.WaitsFor,
        MemberId = order.Member, OrganisationId = order.Organisation,
        Email = order.Email, Name = order.Name, Codes = order.Codes, TotalUnits = order.Total?.Units,
        Currency = order.Total?.Currency, RefundedUnits = order.RefundedUnits, At = order.At, DueAt = order.DueAt,
        Promises = JsonSerializer.Serialize(order.Promises, OrderJson.Written), Told = string.Join('\n', order.Told), TokenDigest = order.TokenDigest,
        Search = SearchOf(order), Version = order.Version,
    };

    /// <summary>What is looked through for a word.</summary>
    public static string SearchOf(Order order) => $"{order.Key} {order.Email} {order.Name} {order.Codes}".ToLowerInvariant();

    public Order ToOrder() => new()
    {
        Id = Id, Source = Source, Key = Key, Standing = (OrderStanding)Standing, Handling = (OrderHandling)Handling, WaitsFor = WaitsFor, Member = MemberId,
        Organisation = OrganisationId, Email = Email, Name = Name, Codes = Codes,
        Total = TotalUnits is { } units && Currency is not null ? new Money(units, Currency) : null,
        RefundedUnits = RefundedUnits, At = At, DueAt = DueAt, Promises = OrderJson.Read<List<OrderPromise>>(Promises) ?? [],
        Told = Told.Length == 0 ? [] : Told.Split('\n'), TokenDigest = TokenDigest, Version = Version,
    };

    public static void Map(EntityTypeBuilder<OrderRow> e)
    {
        e.ToTable("orders");
        e.HasKey(r => r.Id);
        e.Property(r => r.Version).IsConcurrencyToken();
        e.HasIndex(r => new { r.Source, r.Key }).IsUnique();
        e.HasIndex(r => new { r.At, r.Id });
        e.HasIndex(r => r.MemberId);
        e.HasIndex(r => r.Email);
        e.HasIndex(r => r.TokenDigest);
        e.HasIndex(r => r.DueAt).HasFilter("\"DueAt\" IS NOT NULL");
        e.HasIndex(r => new { r.Handling, r.At });
    }
}

/// <summary>One thing that was told of an order.</summary>
internal sealed class OrderEventRow
{
    public Guid Id { get; set; }

    public required string Source { get; set; }

    /// <summary>Its id in the words of whoever told it.</summary>
    public required string Name { get; set; }

    /// <summary>The name of the order; empty where that cannot be read.</summary>
    public string Order { get; set; } = "";

    public DateTimeOffset ReceivedAt { get; set; }

    public int State { get; set; }

    /// <summary>What it says, as JSON; null where that cannot be read.</summary>
    public string? Body { get; set; }

    /// <summary>What came, where it was not said field by field.</summary>
    public string? Raw { get; set; }

    public string? Fault { get; set; }

    public int Version { get; set; }

    public static OrderEventRow Of(KeptEvent kept) => new()
    {
        Id = kept.Id, Source = kept.Source, Name = kept.Name, Order = kept.Event?.Order ?? "", ReceivedAt = kept.ReceivedAt, State = (int)kept.State,
        Body = kept.Event is null ? null : JsonSerializer.Serialize(kept.Event, OrderJson.Written), Raw = kept.Raw, Fault = kept.Fault, Version = kept.Version,
    };

    /// <summary>The event; one whose stored text cannot be read waits as one that never could.</summary>
    public KeptEvent ToEvent()
    {
        var read = Body is null ? null : OrderJson.Read<OrderEvent>(Body);
        return new KeptEvent(
            Id, Source, Name, ReceivedAt, read is null ? OrderEventState.Unreadable : (OrderEventState)State, read, Raw,
            read is null && Body is not null ? "stored" : Fault, Version);
    }

    public static void Map(EntityTypeBuilder<OrderEventRow> e)
    {
        e.ToTable("order_events");
        e.HasKey(r => r.Id);
        e.Property(r => r.Version).IsConcurrencyToken();
        e.HasIndex(r => new { r.Source, r.Name }).IsUnique();
        e.HasIndex(r => new { r.Source, r.Order });
        e.HasIndex(r => new { r.State, r.ReceivedAt }).HasFilter("\"State\" <> 1");
    }
}

/// <summary>A rule of what orders give.</summary>
internal sealed class FulfilmentRow
{
    public required string Key { get; set; }

    /// <summary>The rule as people write it.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static FulfilmentRow Of(FulfilmentRule rule) =>
        new() { Key = rule.Key, Body = JsonSerializer.Serialize(FulfilmentDraft.Of(rule), OrderJson.Written), Version = rule.Version };

    /// <summary>The rule, or what of it cannot be read: such a rule gives nothing, and orders for its code wait.</summary>
    public (FulfilmentRule? Rule, Core.Access.StoredFault? Fault) ToRule() =>
        OrderJson.Read<FulfilmentDraft>(Body) is { } draft && (draft with { Key = Key }).Read(null) is { IsGood: true, Value: var rule }
            ? (rule with { Version = Version }, null)
            : (null, Core.Access.StoredFault.Harmless("fulfilment", Key, Core.Wording.Of("stored.value", Body.Length > 200 ? Body[..200] : Body)));

    public static void Map(EntityTypeBuilder<FulfilmentRow> e)
    {
        e.ToTable("fulfilment");
        e.HasKey(r => r.Key);
    }
}

/// <summary>Whoever tells of orders.</summary>
internal sealed class OrderSourceRow
{
    public required string Key { get; set; }

    /// <summary>The source as people write it.</summary>
    public required string Body { get; set; }

    /// <summary>The sealed secrets, as JSON.</summary>
    public required string Secrets { get; set; }

    public int Version { get; set; }

    public static OrderSourceRow Of(OrderSource source) => new()
    {
        Key = source.Key, Body = JsonSerializer.Serialize(OrderSourceDraft.Of(source), OrderJson.Written),
        Secrets = JsonSerializer.Serialize(source.Secrets, OrderJson.Written), Version = source.Version,
    };

    /// <summary>The source, or what of it cannot be read: such a source is believed nothing.</summary>
    public (OrderSource? Source, Core.Access.StoredFault? Fault) ToSource() =>
        OrderJson.Read<OrderSourceDraft>(Body) is { } draft && (draft with { Key = Key }).Read() is { IsGood: true, Value: var source }
            ? (source with { Version = Version, Secrets = OrderJson.Read<List<SourceSecret>>(Secrets) ?? [] }, null)
            : (null, Core.Access.StoredFault.Harmless("order-source", Key, Core.Wording.Of("stored.value", Body.Length > 200 ? Body[..200] : Body)));

    public static void Map(EntityTypeBuilder<OrderSourceRow> e)
    {
        e.ToTable("order_sources");
        e.HasKey(r => r.Key);
    }
}

/// <summary>A letter about the end of a plan that was written.</summary>
internal sealed class ReminderRow
{
    public Guid GrantId { get; set; }

    public required string Kind { get; set; }

    public DateTimeOffset Until { get; set; }

    public static void Map(EntityTypeBuilder<ReminderRow> e)
    {
        e.ToTable("reminders");
        e.HasKey(r => new { r.GrantId, r.Kind, r.Until });
        e.HasIndex(r => r.Until);
    }
}

/// <summary>How parts of orders are written into one column.</summary>
internal static class OrderJson
{
    public static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web)
    {
        // As it is typed: an address with a plus sign is looked for as that.
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull, Converters = { new LengthAsText(), new FactAsText() },
    };

    /// <summary>What was written; null where it cannot be read.</summary>
    public static T? Read<T>(string text)
        where T : class
    {
        try
        {
            return JsonSerializer.Deserialize<T>(text, Written);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private sealed class LengthAsText : JsonConverter<PlanLength>
    {
        public override PlanLength? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            PlanLength.TryParse(reader.GetString(), out var length) ? length : throw new JsonException();

        public override void Write(Utf8JsonWriter writer, PlanLength value, JsonSerializerOptions options) => writer.WriteStringValue(value.ToString());
    }

    private sealed class FactAsText : JsonConverter<GivenFact>
    {
        public override GivenFact Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            FulfilmentBook.TryFact(reader.GetString(), out var fact) ? fact : throw new JsonException();

        public override void Write(Utf8JsonWriter writer, GivenFact value, JsonSerializerOptions options) => writer.WriteStringValue(value.ToString());
    }
}
