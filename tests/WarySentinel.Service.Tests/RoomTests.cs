using Mono.Cecil;
using Mono.Cecil.Cil;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Storage;
using Xunit;

namespace WarySentinel.Service.Tests;

/// <summary>
/// Inside every project stand the same rooms, and they only point down (docs/architecture.md). What a project's hall holds, the namespace of the project
/// itself, puts the rooms together and may know all of them; in the heart it knows none.
/// </summary>
public sealed class RoomTests
{
    /// <summary>The rooms that each room may know, besides what those know.</summary>
    private static readonly Dictionary<string, string[]> Arrows = new(StringComparer.Ordinal)
    {
        ["Catalogue"] = [],
        ["Facts"] = [],
        ["Markup"] = [],
        ["Access"] = ["Catalogue", "Facts"],
        ["Gates"] = ["Access"],
        ["Passwords"] = ["Access"],
        ["Redirects"] = ["Access"],
        ["People"] = ["Access"],
        ["Letters"] = ["People"],
        ["Pages"] = ["People"],
        ["SiteFile"] = ["Gates", "Passwords", "Redirects", "Letters", "Pages"],
        ["Sweep"] = ["Access"],
    };

    /// <summary>Rooms of the service alone: every room may know the first two, and these may know the rest.</summary>
    private static readonly Dictionary<string, string[]> ServiceArrows = new(Arrows, StringComparer.Ordinal)
    {
        ["Web"] = [],
        ["Nodes"] = ["Web"],
        ["Check"] = ["People"],
        ["Gateway"] = ["Markup", "Pages"],
    };

    [Fact]
    public void Rooms_of_the_heart_point_down_and_its_hall_knows_none() => Wrong(typeof(Problem).Assembly.Location, Arrows, [], hallKnowsNone: true).ShouldBeEmpty();

    [Fact]
    public void Rooms_of_the_store_point_down() => Wrong(typeof(Store).Assembly.Location, Arrows, ["Nodes"]).ShouldBeEmpty();

    [Fact]
    public void Rooms_of_the_service_point_down() => Wrong(typeof(Sentinel).Assembly.Location, ServiceArrows, ["Web", "Nodes"]).ShouldBeEmpty();

    [Fact]
    public void An_arrow_that_is_turned_is_found()
    {
        var turned = new Dictionary<string, string[]>(Arrows, StringComparer.Ordinal) { ["Catalogue"] = ["Access"], ["Access"] = ["Facts"] };
        Wrong(typeof(Problem).Assembly.Location, turned, []).ShouldContain(w => w.StartsWith("Access → Catalogue", StringComparison.Ordinal));
    }

    private static List<string> Wrong(string assembly, Dictionary<string, string[]> arrows, string[] everywhere, bool hallKnowsNone = false)
    {
        using var module = ModuleDefinition.ReadModule(assembly);
        var found = new SortedSet<string>(StringComparer.Ordinal);
        foreach (var type in module.GetTypes().Where(t => !t.FullName.Contains("Migrations", StringComparison.Ordinal)))
        {
            var room = RoomOf(type);
            foreach (var other in room is null && !hallKnowsNone ? [] : Mentions(type).Select(RoomOf).OfType<string>().Where(r => r != room).Distinct())
            {
                if (room is null || (!everywhere.Contains(other) && !Known(room, arrows).Contains(other)))
                {
                    found.Add($"{room ?? "the hall"} → {other}: {type.FullName}");
                }
            }
        }

        return [.. found];
    }

    private static HashSet<string> Known(string room, Dictionary<string, string[]> arrows)
    {
        arrows.ShouldContainKey(room);
        var known = new HashSet<string>(StringComparer.Ordinal);
        var next = new Queue<string>(arrows[room]);
        while (next.TryDequeue(out var one))
        {
            if (known.Add(one))
            {
                arrows[one].ToList().ForEach(next.Enqueue);
            }
        }

        return known;
    }

    /// <summary>The room of a type of ours: the third part of its namespace; null for the hall, and for what is not ours.</summary>
    private static string? RoomOf(TypeReference type)
    {
        var outer = type.GetElementType();
        while (outer.DeclaringType is { } declaring)
        {
            outer = declaring.GetElementType();
        }

        var parts = outer.Namespace.Split('.');
        return parts is ["WarySentinel", _, var room, ..] ? room : null;
    }

    private static IEnumerable<TypeReference> Mentions(TypeDefinition type)
    {
        IEnumerable<TypeReference> all =
        [
            .. type.BaseType is null ? [] : Parts(type.BaseType), .. type.Interfaces.SelectMany(i => Parts(i.InterfaceType)),
            .. type.Fields.SelectMany(f => Parts(f.FieldType)), .. type.Properties.SelectMany(p => Parts(p.PropertyType)),
            .. type.CustomAttributes.SelectMany(a => Parts(a.AttributeType)),
        ];
        return all.Concat(type.Methods.SelectMany(m => (IEnumerable<TypeReference>)
        [
            .. Parts(m.ReturnType), .. m.Parameters.SelectMany(p => Parts(p.ParameterType)), .. m.HasBody ? InBody(m.Body) : [],
        ]));
    }

    private static IEnumerable<TypeReference> InBody(MethodBody body) => body.Variables.SelectMany(v => Parts(v.VariableType))
        .Concat(body.Instructions.SelectMany(i => i.Operand switch
        {
            TypeReference type => Parts(type),
            GenericInstanceMethod method => method.GenericArguments.SelectMany(Parts).Concat(Parts(method.DeclaringType)),
            MemberReference member => Parts(member.DeclaringType),
            _ => [],
        }));

    /// <summary>A type, and those it is made of.</summary>
    private static IEnumerable<TypeReference> Parts(TypeReference? type) => type switch
    {
        null or GenericParameter => [],
        GenericInstanceType generic => generic.GenericArguments.SelectMany(Parts).Prepend(generic.ElementType),
        TypeSpecification made => Parts(made.ElementType),
        _ => [type],
    };
}
