using System.Text.Json;
using Shouldly;
using WarySentinel.Contract;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Gates;
using WarySentinel.Service.People;
using Xunit;

namespace WarySentinel.Service.Tests.Web;

/// <summary>Whatever a draft says on the wire reaches the rules: a field that stands on one side only, or is left out between them, is found.</summary>
public sealed class WireTests
{
    [Fact]
    public void Nothing_of_a_draft_is_lost_between_wire_and_rule()
    {
        Same<Contract.Gates.GateDraft>(draft => draft.ToCore());
        Same<Contract.Catalogue.ItemDraft>(draft => draft.ToCore());
        Same<Contract.People.MemberDraft>(draft => draft.ToCore());
        Same<Contract.People.GrantDraft>(draft => draft.ToCore());
    }

    private static void Same<T>(Func<T, object> toCore)
    {
        var sent = JsonSerializer.Serialize(Filled(typeof(T), typeof(T).Name), ApiJson.Options);
        var read = toCore(JsonSerializer.Deserialize<T>(sent, ApiJson.Options)!);
        JsonElement.DeepEquals(JsonSerializer.SerializeToElement(read, read.GetType(), ApiJson.Options), JsonDocument.Parse(sent).RootElement)
            .ShouldBeTrue(typeof(T).Name);
    }

    /// <summary>A value of a type with something of its own in every field.</summary>
    private static object Filled(Type type, string name) => type switch
    {
        _ when type == typeof(string) || type == typeof(SecretText) => name,
        _ when Nullable.GetUnderlyingType(type) == typeof(bool) => true,
        _ when type.IsGenericType => new[] { name + "-1", name + "-2" },
        _ => type.GetProperties().ToDictionary(p => JsonNamingPolicy.CamelCase.ConvertName(p.Name), p => Filled(p.PropertyType, name + "." + p.Name)),
    };
}
