using FsCheck.Xunit;

namespace WarySentinel.Core.Tests;

/// <summary>A property of whole sites or orders, each of which takes a while: tried a few times beside all other tests, and many in the long form.</summary>
[AttributeUsage(AttributeTargets.Method)]
#pragma warning disable xUnit3003 // Where it stands is asked of what it derives from, which does not take it.
public sealed class TriedAttribute : PropertyAttribute
#pragma warning restore xUnit3003
{
    public TriedAttribute(int few, int many) => MaxTest = Trials.Of(few, many);
}
