using System.Text.Json;
using System.Text.Json.Nodes;
using WarySentinel.Contract.Orders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Orders;

/// <summary>Orders as the API has them.</summary>
internal static class OrderWire
{
    public static OrderView ToWire(this Order order) => new(
        order.Id, order.Source, order.Key, OrderWords.NameOf(order.Standing), OrderWords.NameOf(order.Handling), order.WaitsFor, order.Email, order.Name,
        order.Codes, order.Total?.Amount, order.Total?.Currency,
        order.RefundedUnits > 0 && order.Total is { } total ? new Money(order.RefundedUnits, total.Currency).Amount : null, order.At, order.DueAt,
            order.Member);

    public static OrderEventView ToWire(this KeptEvent kept) => new(
        kept.Id, kept.Name, kept.Event is { } told ? OrderEvent.NameOf(told.Kind) : null, kept.Event?.At, kept.ReceivedAt,
        kept.State.ToString().ToLowerInvariant(), kept.Event?.Amount?.ToString(), kept.Event is { Kind: OrderEventKind.Mended } mended
            ? mended.Buyer?.Email : null);

    public static FulfilmentView ToWire(this FulfilmentRule rule, Policy policy)
    {
        var draft = Core.Orders.FulfilmentDraft.Of(rule);
        return new FulfilmentView(
            rule.Key, rule.Code, draft.Gives!, draft.Length, draft.Trial, draft.Way!, draft.Quantity!, rule.Most, rule.LandsOn, rule.Gate,
            OrderSentences.Of(rule, policy, Reader.Book), rule.Version);
    }

    public static Core.Orders.FulfilmentDraft ToCore(this Contract.Orders.FulfilmentDraft draft, string key) => new()
    {
        Key = key, Code = draft.Code, Gives = draft.Gives, Length = draft.Length, Trial = draft.Trial, Way = draft.Way, Quantity = draft.Quantity,
        Most = draft.Most, LandsOn = draft.LandsOn, Gate = draft.Gate,
    };

    public static OrderSourceView ToWire(this OrderSource source, ServiceOptions options)
    {
        var draft = Core.Orders.OrderSourceDraft.Of(source);
        var none = new Dictionary<string, string>();
        return new OrderSourceView(
            source.Key, source.Title, $"{options.SiteUrl.TrimEnd('/')}{options.MachinePrefix}/hooks/{source.Key}", draft.Proof!, draft.Header,
            draft.TimestampHeader, draft.Prefix, draft.Base64, draft.Sha512, draft.Fields ?? none, draft.Kinds ?? none, draft.InUnits, draft.Currency,
            draft.Checkout, draft.OpensDoor, source.Secrets.Count > 0, source.Version);
    }

    public static Core.Orders.OrderSourceDraft ToCore(this Contract.Orders.OrderSourceDraft draft, string key) => new()
    {
        Key = key, Title = draft.Title, Proof = draft.Proof, Header = draft.Header, TimestampHeader = draft.TimestampHeader, Prefix = draft.Prefix,
        Base64 = draft.Base64 ?? false, Sha512 = draft.Sha512 ?? false, Fields = draft.Fields, Kinds = draft.Kinds, InUnits = draft.InUnits ?? false,
        Currency = draft.Currency, Checkout = draft.Checkout, OpensDoor = draft.OpensDoor ?? false,
    };

    /// <summary>Reads what somebody says of an order, by the one reader there is; faults name the fields of the draft.</summary>
    public static Outcome<OrderEvent> Read(this OrderDraft draft, string order, string kind, DateTimeOffset now)
    {
        var data = new JsonObject
        {
            ["order"] = order, ["currency"] = draft.Currency, ["amount"] = draft.Amount, ["payment"] = draft.Payment,
            ["token"] = draft.Token, ["coupon"] = draft.Coupon,
        };
        if (!string.IsNullOrWhiteSpace(draft.Email))
        {
            data["buyer"] = new JsonObject { ["email"] = draft.Email, ["name"] = draft.Name, ["language"] = draft.Language };
        }

        if (draft.Gift is { } gift)
        {
            data["gift"] = new JsonObject { ["email"] = gift.Email, ["name"] = gift.Name, ["on"] = gift.On, ["words"] = gift.Words };
        }

        if (draft.Lines is { } lines)
        {
            data["lines"] = new JsonArray([.. lines.Select(l => (JsonNode)new JsonObject
            {
                ["code"] = l.Code, ["variant"] = l.Variant, ["quantity"] = l.Quantity, ["amount"] = l.Amount,
            })]);
        }

        var whole = new JsonObject
        {
            ["specversion"] = "1.0", ["id"] = draft.Id ?? Guid.CreateVersion7().ToString("N"), ["type"] = kind, ["time"] = draft.At, ["data"] = data,
        };
        var read = EventReading.Read(JsonSerializer.SerializeToElement(whole), now);
        return read.Problem is { } problem ? problem with { Faults = [.. problem.Faults.Select(f => f with { Field = FieldOf(f.Field) })] } : read;
    }

    private static string FieldOf(string pointer) => pointer switch
    {
        "/time" => "at",
        "/type" => "kind",
        "/data/buyer" or "/data/buyer/email" => "email",
        _ => pointer.Replace("/data/buyer/", "", StringComparison.Ordinal).Replace("/data/", "", StringComparison.Ordinal).TrimStart('/').Replace('/', '.'),
    };
}
