using FsCheck;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Hosted;
using Xunit;

namespace WarySentinel.Core.Tests.Hosted;

public sealed class PictureSizeTests
{
    // The smallest files of each kind that programs read: an 8-bit PNG, a GIF89a, a baseline JPEG behind two segments, and the three kinds of WebP.
    private static readonly (string Hex, int Width, int Height)[] Heads =
    [
        ("89504E470D0A1A0A0000000D49484452000003200000025808020000", 800, 600),
        ("4749463839610A00140080", 10, 20),
        ("FFD8FFE000104A46494600010100000100010000FFFE0004AABBFFC0001108012C01900301", 400, 300),
        ("524946460000000057454250565038580A00000000000000DF01003F0100", 480, 320),
        ("5249464600000000574542505650384C000000002F8F417700000000000000", 400, 478),
        ("52494646000000005745425056503820000000000000009D012A400130010000", 320, 304),
    ];

    [Fact]
    public void The_size_stands_at_the_head_of_each_kind()
    {
        foreach (var (hex, width, height) in Heads)
        {
            PictureSize.Of(Convert.FromHexString(hex)).ShouldBe((width, height), hex);
        }
    }

    [Theory]
    [InlineData("<svg xmlns='http://www.w3.org/2000/svg' width='120' height=\"80px\"></svg>", 120, 80)]
    [InlineData("<?xml version='1.0'?><!-- a --><svg viewBox='0 0 24.5 10' width='100%'>", 25, 10)]
    [InlineData("<svg viewBox='-5,-5 30,40'>", 30, 40)]
    public void A_drawing_says_how_large_it_is(string svg, int width, int height) =>
        PictureSize.Of(System.Text.Encoding.UTF8.GetBytes(svg)).ShouldBe((width, height));

    [Theory]
    [InlineData("<svg width='1e9' height='3'>")]
    [InlineData("<svg viewBox='0 0 0 10'>")]
    [InlineData("<svg viewBox='0 0 99999 10'>")]
    [InlineData("<html>")]
    [InlineData("")]
    public void What_says_nothing_that_a_page_could_use_has_no_size(string svg) =>
        PictureSize.Of(System.Text.Encoding.UTF8.GetBytes(svg)).ShouldBeNull();

    [Fact]
    public void Pictures_that_a_browser_drew_are_as_large_as_they_are()
    {
        foreach (var file in Directory.EnumerateFiles(Path.Combine(HouseTests.Root, "docs", "screenshots"), "*.png").Take(5))
        {
            PictureSize.Of(File.ReadAllBytes(file)).ShouldNotBeNull(file).Width.ShouldBeInRange(300, 2600);
        }
    }

    [Property(MaxTest = 2000)]
    public void Whatever_is_sent_breaks_nothing(byte kind, PositiveInt cut, PositiveInt place, byte value)
    {
        var head = Convert.FromHexString(Heads[kind % Heads.Length].Hex);
        head[place.Get % head.Length] = value;
        if (PictureSize.Of(head.AsSpan(0, cut.Get % (head.Length + 1))) is var (width, height))
        {
            width.ShouldBeInRange(1, PictureSize.Most);
            height.ShouldBeInRange(1, PictureSize.Most);
        }
    }
}
