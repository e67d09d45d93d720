// The nodes of X3D: for each its name, the field of its parent that holds it where none is told, and its fields with their types (but `metadata`, which all have, and what
// takes or sends events only). Source: X3D Architecture 4.0 (ISO/IEC 19775-1:2023) as x_ite 15.0.1 (MIT) declares it; `watchList` as in 3.3.

export type FieldType = `${'SF' | 'MF'}${
  | 'Bool'
  | 'Color'
  | 'ColorRGBA'
  | 'Double'
  | 'Float'
  | 'Image'
  | 'Int32'
  | 'Matrix3d'
  | 'Matrix3f'
  | 'Matrix4d'
  | 'Matrix4f'
  | 'Node'
  | 'Rotation'
  | 'String'
  | 'Time'
  | 'Vec2d'
  | 'Vec2f'
  | 'Vec3d'
  | 'Vec3f'
  | 'Vec4d'
  | 'Vec4f'}`;

export interface NodeType {
  container: string;
  fields: ReadonlyMap<string, FieldType>;
}

/** Words of one value of a type; images say their own length. */
export const wordsOf: Record<string, number> = {
  Bool: 1,
  Color: 3,
  ColorRGBA: 4,
  Double: 1,
  Float: 1,
  Int32: 1,
  Matrix3d: 9,
  Matrix3f: 9,
  Matrix4d: 16,
  Matrix4f: 16,
  Rotation: 4,
  Time: 1,
  Vec2d: 2,
  Vec2f: 2,
  Vec3d: 3,
  Vec3f: 3,
  Vec4d: 4,
  Vec4f: 4,
};

export const isFieldType = (word: string): word is FieldType =>
  /^[SM]F(Node|String|Image)$/.test(word) || (/^[SM]F/.test(word) && word.slice(2) in wordsOf);

const table = `
AcousticProperties acousticProperties description:SFString enabled:SFBool diffuse:SFFloat specular:SFFloat refraction:SFFloat absorption:SFFloat
Analyser children description:SFString enabled:SFBool fftSize:SFInt32 minDecibels:SFFloat maxDecibels:SFFloat smoothingTimeConstant:SFFloat gain:SFFloat tailTime:SFTime channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime children:MFNode
Anchor children description:SFString load:SFBool url:MFString parameter:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
Appearance appearance alphaMode:SFString alphaCutoff:SFFloat acousticProperties:SFNode pointProperties:SFNode lineProperties:SFNode fillProperties:SFNode material:SFNode backMaterial:SFNode texture:SFNode textureTransform:SFNode shaders:MFNode blendMode:SFNode depthMode:SFNode
Arc2D geometry startAngle:SFFloat endAngle:SFFloat radius:SFFloat
ArcClose2D geometry closureType:SFString startAngle:SFFloat endAngle:SFFloat radius:SFFloat solid:SFBool
AudioClip source description:SFString enabled:SFBool load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime gain:SFFloat pitch:SFFloat loop:SFBool startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime
AudioDestination children description:SFString enabled:SFBool gain:SFFloat mediaDeviceID:SFString channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString children:MFNode
Background children frontUrl:MFString backUrl:MFString leftUrl:MFString rightUrl:MFString topUrl:MFString bottomUrl:MFString skyAngle:MFFloat skyColor:MFColor groundAngle:MFFloat groundColor:MFColor transparency:SFFloat
BallJoint joints forceOutput:MFString anchorPoint:SFVec3f body1:SFNode body2:SFNode
Billboard children axisOfRotation:SFVec3f visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
BiquadFilter children description:SFString enabled:SFBool gain:SFFloat tailTime:SFTime detune:SFFloat type:SFString frequency:SFFloat qualityFactor:SFFloat channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime children:MFNode
BlendedVolumeStyle renderStyle enabled:SFBool weightConstant1:SFFloat weightConstant2:SFFloat weightFunction1:SFString weightFunction2:SFString weightTransferFunction1:SFNode weightTransferFunction2:SFNode renderStyle:SFNode voxels:SFNode
BooleanFilter children
BooleanSequencer children key:MFFloat keyValue:MFBool
BooleanToggle children toggle:SFBool
BooleanTrigger children
BoundaryEnhancementVolumeStyle renderStyle enabled:SFBool retainedOpacity:SFFloat boundaryOpacity:SFFloat opacityFactor:SFFloat
BoundedPhysicsModel physics enabled:SFBool damping:SFFloat geometry:SFNode
Box geometry size:SFVec3f solid:SFBool
BufferAudioSource children description:SFString enabled:SFBool load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime numberOfChannels:SFInt32 sampleRate:SFFloat bufferLength:SFInt32 buffer:MFFloat gain:SFFloat detune:SFFloat playbackRate:SFFloat loopStart:SFTime loopEnd:SFTime channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString loop:SFBool startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime
CADAssembly children name:SFString visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
CADFace children name:SFString visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f shape:SFNode
CADLayer children name:SFString visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
CADPart children name:SFString translation:SFVec3f rotation:SFRotation scale:SFVec3f scaleOrientation:SFRotation center:SFVec3f visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
CartoonVolumeStyle renderStyle enabled:SFBool colorSteps:SFInt32 orthogonalColor:SFColorRGBA parallelColor:SFColorRGBA surfaceNormals:SFNode
ChannelMerger children description:SFString enabled:SFBool gain:SFFloat channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString children:MFNode
ChannelSelector children description:SFString enabled:SFBool gain:SFFloat channelSelection:SFInt32 channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString children:MFNode
ChannelSplitter children description:SFString enabled:SFBool gain:SFFloat channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString children:MFNode outputs:MFNode
Circle2D geometry radius:SFFloat
ClipPlane children enabled:SFBool plane:SFVec4f
CollidableOffset children enabled:SFBool translation:SFVec3f rotation:SFRotation visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f collidable:SFNode
CollidableShape children enabled:SFBool translation:SFVec3f rotation:SFRotation visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f shape:SFNode
Collision children description:SFString enabled:SFBool visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f proxy:SFNode children:MFNode
CollisionCollection collider description:SFString enabled:SFBool appliedParameters:MFString bounce:SFFloat minBounceSpeed:SFFloat frictionCoefficients:SFVec2f surfaceSpeed:SFVec2f slipFactors:SFVec2f softnessConstantForceMix:SFFloat softnessErrorCorrection:SFFloat visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f collidables:MFNode
CollisionSensor children description:SFString enabled:SFBool collider:SFNode
CollisionSpace children enabled:SFBool useGeometry:SFBool visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f collidables:MFNode
Color color color:MFColor
ColorChaser children initialValue:SFColor initialDestination:SFColor duration:SFTime
ColorDamper children initialValue:SFColor initialDestination:SFColor order:SFInt32 tau:SFTime tolerance:SFFloat
ColorInterpolator children key:MFFloat keyValue:MFColor
ColorRGBA color color:MFColorRGBA
ComposedCubeMapTexture texture description:SFString frontTexture:SFNode backTexture:SFNode leftTexture:SFNode rightTexture:SFNode topTexture:SFNode bottomTexture:SFNode textureProperties:SFNode
ComposedShader shaders language:SFString parts:MFNode
ComposedTexture3D texture description:SFString repeatS:SFBool repeatT:SFBool repeatR:SFBool textureProperties:SFNode texture:MFNode
ComposedVolumeStyle renderStyle enabled:SFBool renderStyle:MFNode
Cone geometry side:SFBool bottom:SFBool height:SFFloat bottomRadius:SFFloat solid:SFBool
ConeEmitter emitter on:SFBool position:SFVec3f direction:SFVec3f angle:SFFloat speed:SFFloat variation:SFFloat mass:SFFloat surfaceArea:SFFloat
Contact contacts position:SFVec3f contactNormal:SFVec3f depth:SFFloat appliedParameters:MFString bounce:SFFloat minBounceSpeed:SFFloat frictionDirection:SFVec3f frictionCoefficients:SFVec2f surfaceSpeed:SFVec2f slipCoefficients:SFVec2f softnessConstantForceMix:SFFloat softnessErrorCorrection:SFFloat geometry1:SFNode geometry2:SFNode body1:SFNode body2:SFNode
Contour2D trimmingContour children:MFNode
ContourPolyline2D children controlPoint:MFVec2d
Convolver children description:SFString enabled:SFBool numberOfChannels:SFInt32 buffer:MFFloat gain:SFFloat tailTime:SFTime normalize:SFBool channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime children:MFNode
Coordinate coord point:MFVec3f
CoordinateChaser children initialValue:MFVec3f initialDestination:MFVec3f duration:SFTime
CoordinateDamper children initialValue:MFVec3f initialDestination:MFVec3f order:SFInt32 tau:SFTime tolerance:SFFloat
CoordinateDouble coord point:MFVec3d
CoordinateInterpolator children key:MFFloat keyValue:MFVec3f
CoordinateInterpolator2D children key:MFFloat keyValue:MFVec2f
Cylinder geometry top:SFBool side:SFBool bottom:SFBool height:SFFloat radius:SFFloat solid:SFBool
CylinderSensor children description:SFString enabled:SFBool axisRotation:SFRotation diskAngle:SFFloat minAngle:SFFloat maxAngle:SFFloat offset:SFFloat autoOffset:SFBool
DISEntityManager children address:SFString applicationID:SFInt32 children:MFNode port:SFInt32 siteID:SFInt32
DISEntityTypeMapping children description:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime category:SFInt32 country:SFInt32 domain:SFInt32 extra:SFInt32 kind:SFInt32 specific:SFInt32 subcategory:SFInt32
Delay children description:SFString enabled:SFBool gain:SFFloat tailTime:SFTime maxDelayTime:SFTime delayTime:SFTime channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime children:MFNode
DirectionalLight children global:SFBool on:SFBool color:SFColor intensity:SFFloat ambientIntensity:SFFloat direction:SFVec3f shadows:SFBool shadowColor:SFColor shadowIntensity:SFFloat shadowBias:SFFloat shadowMapSize:SFInt32
Disk2D geometry innerRadius:SFFloat outerRadius:SFFloat solid:SFBool
DoubleAxisHingeJoint joints forceOutput:MFString anchorPoint:SFVec3f axis1:SFVec3f axis2:SFVec3f minAngle1:SFFloat maxAngle1:SFFloat desiredAngularVelocity1:SFFloat desiredAngularVelocity2:SFFloat maxTorque1:SFFloat maxTorque2:SFFloat stop1Bounce:SFFloat stop1ConstantForceMix:SFFloat stop1ErrorCorrection:SFFloat suspensionForce:SFFloat suspensionErrorCorrection:SFFloat body1:SFNode body2:SFNode
DynamicsCompressor children description:SFString enabled:SFBool gain:SFFloat tailTime:SFTime attack:SFTime knee:SFFloat ratio:SFFloat release:SFTime threshold:SFFloat channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime children:MFNode
EaseInEaseOut children key:MFFloat easeInEaseOut:MFVec2f
EdgeEnhancementVolumeStyle renderStyle enabled:SFBool edgeColor:SFColorRGBA gradientThreshold:SFFloat surfaceNormals:SFNode
ElevationGrid geometry xDimension:SFInt32 zDimension:SFInt32 xSpacing:SFFloat zSpacing:SFFloat solid:SFBool ccw:SFBool creaseAngle:SFFloat colorPerVertex:SFBool normalPerVertex:SFBool attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode height:MFFloat
EnvironmentLight children global:SFBool on:SFBool color:SFColor intensity:SFFloat ambientIntensity:SFFloat origin:SFVec3f rotation:SFRotation diffuseCoefficients:MFFloat diffuseTexture:SFNode specularTexture:SFNode shadows:SFBool shadowColor:SFColor shadowIntensity:SFFloat shadowBias:SFFloat shadowMapSize:SFInt32
EspduTransform children description:SFString enabled:SFBool visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode address:SFString applicationID:SFInt32 articulationParameterCount:SFInt32 articulationParameterDesignatorArray:MFInt32 articulationParameterChangeIndicatorArray:MFInt32 articulationParameterIdPartAttachedToArray:MFInt32 articulationParameterTypeArray:MFInt32 articulationParameterArray:MFFloat center:SFVec3f collisionType:SFInt32 deadReckoning:SFInt32 detonationLocation:SFVec3f detonationRelativeLocation:SFVec3f detonationResult:SFInt32 entityCategory:SFInt32 entityCountry:SFInt32 entityDomain:SFInt32 entityExtra:SFInt32 entityID:SFInt32 entityKind:SFInt32 entitySpecific:SFInt32 entitySubcategory:SFInt32 eventApplicationID:SFInt32 eventEntityID:SFInt32 eventNumber:SFInt32 eventSiteID:SFInt32 fired1:SFBool fired2:SFBool fireMissionIndex:SFInt32 firingRange:SFFloat firingRate:SFInt32 forceID:SFInt32 fuse:SFInt32 linearVelocity:SFVec3f linearAcceleration:SFVec3f marking:SFString multicastRelayHost:SFString multicastRelayPort:SFInt32 munitionApplicationID:SFInt32 munitionEndPoint:SFVec3f munitionEntityID:SFInt32 munitionQuantity:SFInt32 munitionSiteID:SFInt32 munitionStartPoint:SFVec3f networkMode:SFString port:SFInt32 readInterval:SFTime rotation:SFRotation scale:SFVec3f scaleOrientation:SFRotation siteID:SFInt32
ExplosionEmitter emitter on:SFBool position:SFVec3f speed:SFFloat variation:SFFloat mass:SFFloat surfaceArea:SFFloat
Extrusion geometry beginCap:SFBool endCap:SFBool solid:SFBool ccw:SFBool convex:SFBool creaseAngle:SFFloat crossSection:MFVec2f orientation:MFRotation scale:MFVec2f spine:MFVec3f
FillProperties fillProperties filled:SFBool hatched:SFBool hatchStyle:SFInt32 hatchColor:SFColor
FloatVertexAttribute attrib name:SFString numComponents:SFInt32 value:MFFloat
Fog children fogType:SFString color:SFColor visibilityStart:SFFloat visibilityRange:SFFloat
FogCoordinate fogCoord depth:MFFloat
FontLibrary children description:SFString family:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime
FontStyle fontStyle language:SFString family:MFString style:SFString size:SFFloat spacing:SFFloat horizontal:SFBool leftToRight:SFBool topToBottom:SFBool justify:MFString
ForcePhysicsModel physics enabled:SFBool force:SFVec3f
Gain children description:SFString enabled:SFBool gain:SFFloat tailTime:SFTime channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime children:MFNode
GeneratedCubeMapTexture texture description:SFString update:SFString size:SFInt32 textureProperties:SFNode
GeoCoordinate coord geoOrigin:SFNode geoSystem:MFString point:MFVec3d
GeoElevationGrid geometry geoOrigin:SFNode geoSystem:MFString geoGridOrigin:SFVec3d xDimension:SFInt32 zDimension:SFInt32 xSpacing:SFDouble zSpacing:SFDouble yScale:SFFloat solid:SFBool ccw:SFBool creaseAngle:SFDouble colorPerVertex:SFBool normalPerVertex:SFBool color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode height:MFDouble
GeoLOD children geoOrigin:SFNode geoSystem:MFString rootUrl:MFString child1Url:MFString child2Url:MFString child3Url:MFString child4Url:MFString center:SFVec3d range:SFFloat visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f rootNode:MFNode
GeoLocation children geoOrigin:SFNode geoSystem:MFString geoCoords:SFVec3d visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
GeoMetadata children description:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime summary:MFString data:MFNode
GeoOrigin geoOrigin geoSystem:MFString geoCoords:SFVec3d rotateYUp:SFBool
GeoPositionInterpolator children geoOrigin:SFNode geoSystem:MFString key:MFFloat keyValue:MFVec3d
GeoProximitySensor children description:SFString geoOrigin:SFNode geoSystem:MFString enabled:SFBool size:SFVec3f center:SFVec3d geoCenter:SFVec3d
GeoTouchSensor children description:SFString geoOrigin:SFNode geoSystem:MFString enabled:SFBool
GeoTransform children translation:SFVec3f rotation:SFRotation scale:SFVec3f scaleOrientation:SFRotation geoOrigin:SFNode geoSystem:MFString geoCenter:SFVec3d visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
GeoViewpoint children geoOrigin:SFNode geoSystem:MFString description:SFString position:SFVec3d orientation:SFRotation centerOfRotation:SFVec3d fieldOfView:SFFloat nearDistance:SFFloat farDistance:SFFloat viewAll:SFBool jump:SFBool retainUserOffsets:SFBool speedFactor:SFFloat navigationInfo:SFNode
Group children visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
HAnimDisplacer displacers description:SFString name:SFString weight:SFFloat coordIndex:MFInt32 displacements:MFVec3f
HAnimHumanoid children description:SFString name:SFString info:MFString version:SFString skeletalConfiguration:SFString loa:SFInt32 translation:SFVec3f rotation:SFRotation scale:SFVec3f scaleOrientation:SFRotation center:SFVec3f visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f skeleton:MFNode jointBindingPositions:MFVec3f jointBindingRotations:MFRotation jointBindingScales:MFVec3f joints:MFNode segments:MFNode sites:MFNode viewpoints:MFNode children:MFNode motionsEnabled:MFBool motions:MFNode skinBindingNormals:SFNode skinBindingCoords:SFNode skinNormal:SFNode skinCoord:SFNode skin:MFNode
HAnimJoint children description:SFString name:SFString translation:SFVec3f rotation:SFRotation scale:SFVec3f scaleOrientation:SFRotation center:SFVec3f limitOrientation:SFRotation llimit:MFFloat ulimit:MFFloat minAngle:SFFloat maxAngle:SFFloat stiffness:MFFloat skinCoordIndex:MFInt32 skinCoordWeight:MFFloat displacers:MFNode visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
HAnimMotion motions description:SFString name:SFString loa:SFInt32 enabled:SFBool joints:SFString channelsEnabled:MFBool channels:SFString values:MFFloat loop:SFBool frameIndex:SFInt32 frameDuration:SFTime frameIncrement:SFInt32 startFrame:SFInt32 endFrame:SFInt32
HAnimPose children description:SFString name:SFString loa:SFInt32 enabled:SFBool transitionDuration:SFFloat children:MFNode
HAnimSegment children description:SFString name:SFString mass:SFFloat centerOfMass:SFVec3f momentsOfInertia:MFFloat displacers:MFNode coord:SFNode visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
HAnimSite children description:SFString name:SFString translation:SFVec3f rotation:SFRotation scale:SFVec3f scaleOrientation:SFRotation center:SFVec3f visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
ImageCubeMapTexture texture description:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime textureProperties:SFNode
ImageTexture texture description:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime colorSpaceConversion:SFBool repeatS:SFBool repeatT:SFBool textureProperties:SFNode
ImageTexture3D texture description:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime repeatS:SFBool repeatT:SFBool repeatR:SFBool textureProperties:SFNode
ImageTextureAtlas texture description:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime slicesOverX:SFInt32 slicesOverY:SFInt32 numberOfSlices:SFInt32 repeatS:SFBool repeatT:SFBool repeatR:SFBool textureProperties:SFNode
IndexedFaceSet geometry solid:SFBool ccw:SFBool convex:SFBool creaseAngle:SFFloat colorPerVertex:SFBool normalPerVertex:SFBool colorIndex:MFInt32 texCoordIndex:MFInt32 normalIndex:MFInt32 coordIndex:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
IndexedLineSet geometry colorPerVertex:SFBool colorIndex:MFInt32 coordIndex:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode tangent:SFNode normal:SFNode coord:SFNode
IndexedQuadSet geometry solid:SFBool ccw:SFBool colorPerVertex:SFBool normalPerVertex:SFBool index:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
IndexedTriangleFanSet geometry solid:SFBool ccw:SFBool colorPerVertex:SFBool normalPerVertex:SFBool index:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
IndexedTriangleSet geometry solid:SFBool ccw:SFBool colorPerVertex:SFBool normalPerVertex:SFBool index:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
IndexedTriangleStripSet geometry solid:SFBool ccw:SFBool colorPerVertex:SFBool normalPerVertex:SFBool index:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
Inline children description:SFString global:SFBool load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f
InlineGeometry geometry description:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime solid:SFBool smooth:SFBool
IntegerSequencer children key:MFFloat keyValue:MFInt32
IntegerTrigger children integerKey:SFInt32
IsoSurfaceVolumeData children dimensions:SFVec3f contourStepSize:SFFloat surfaceValues:MFFloat surfaceTolerance:SFFloat visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f renderStyle:MFNode gradients:SFNode voxels:SFNode
KeySensor children description:SFString enabled:SFBool
LOD children forceTransitions:SFBool center:SFVec3f range:MFFloat visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
Layer layers pickable:SFBool objectType:MFString pointerEvents:SFBool visible:SFBool viewport:SFNode children:MFNode
LayerSet children activeLayer:SFInt32 order:MFInt32 layers:MFNode
Layout layout align:MFString offsetUnits:MFString offset:MFFloat sizeUnits:MFString size:MFFloat scaleMode:MFString
LayoutGroup children layout:SFNode viewport:SFNode visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
LayoutLayer layers pickable:SFBool objectType:MFString pointerEvents:SFBool visible:SFBool layout:SFNode viewport:SFNode children:MFNode
LinePickSensor children description:SFString enabled:SFBool objectType:MFString matchCriterion:SFString intersectionType:SFString sortOrder:SFString pickingGeometry:SFNode pickTarget:MFNode
LineProperties lineProperties applied:SFBool linetype:SFInt32 linewidthScaleFactor:SFFloat
LineSet geometry vertexCount:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode tangent:SFNode normal:SFNode coord:SFNode
ListenerPointSource children description:SFString enabled:SFBool trackCurrentView:SFBool position:SFVec3f orientation:SFRotation interauralDistance:SFFloat dopplerEnabled:SFBool
LoadSensor children watchList:MFNode description:SFString enabled:SFBool timeOut:SFTime children:MFNode
LocalFog children enabled:SFBool fogType:SFString color:SFColor visibilityStart:SFFloat visibilityRange:SFFloat
Material material ambientIntensity:SFFloat ambientTextureMapping:SFString ambientTexture:SFNode diffuseColor:SFColor diffuseTextureMapping:SFString diffuseTexture:SFNode specularColor:SFColor specularTextureMapping:SFString specularTexture:SFNode emissiveColor:SFColor emissiveTextureMapping:SFString emissiveTexture:SFNode shininess:SFFloat shininessTextureMapping:SFString shininessTexture:SFNode occlusionStrength:SFFloat occlusionTextureMapping:SFString occlusionTexture:SFNode normalScale:SFFloat normalTextureMapping:SFString normalTexture:SFNode transparency:SFFloat
Matrix3VertexAttribute attrib name:SFString value:MFMatrix3f
Matrix4VertexAttribute attrib name:SFString value:MFMatrix4f
MetadataBoolean value name:SFString reference:SFString value:MFBool
MetadataDouble value name:SFString reference:SFString value:MFDouble
MetadataFloat value name:SFString reference:SFString value:MFFloat
MetadataInteger value name:SFString reference:SFString value:MFInt32
MetadataSet value name:SFString reference:SFString value:MFNode
MetadataString value name:SFString reference:SFString value:MFString
MicrophoneSource children description:SFString enabled:SFBool gain:SFFloat mediaDeviceID:SFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime
MotorJoint joints autoCalc:SFBool forceOutput:MFString axis1Angle:SFFloat axis2Angle:SFFloat axis3Angle:SFFloat axis1Torque:SFFloat axis2Torque:SFFloat axis3Torque:SFFloat enabledAxes:SFInt32 motor1Axis:SFVec3f motor2Axis:SFVec3f motor3Axis:SFVec3f stop1Bounce:SFFloat stop2Bounce:SFFloat stop3Bounce:SFFloat stop1ErrorCorrection:SFFloat stop2ErrorCorrection:SFFloat stop3ErrorCorrection:SFFloat body1:SFNode body2:SFNode
MovieTexture texture description:SFString enabled:SFBool load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime gain:SFFloat pitch:SFFloat speed:SFFloat loop:SFBool startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime repeatS:SFBool repeatT:SFBool textureProperties:SFNode
MultiTexture texture description:SFString color:SFColor alpha:SFFloat mode:MFString source:MFString function:MFString texture:MFNode
MultiTextureCoordinate texCoord texCoord:MFNode
MultiTextureTransform textureTransform textureTransform:MFNode
NavigationInfo children type:MFString avatarSize:MFFloat speed:SFFloat headlight:SFBool visibilityLimit:SFFloat transitionType:MFString transitionTime:SFTime
Normal normal vector:MFVec3f
NormalInterpolator children key:MFFloat keyValue:MFVec3f
NurbsCurve geometry tessellation:SFInt32 closed:SFBool order:SFInt32 knot:MFDouble weight:MFDouble controlPoint:SFNode
NurbsCurve2D children tessellation:SFInt32 closed:SFBool order:SFInt32 knot:MFDouble weight:MFDouble controlPoint:MFVec2d
NurbsOrientationInterpolator children order:SFInt32 knot:MFDouble weight:MFDouble controlPoint:SFNode
NurbsPatchSurface geometry uTessellation:SFInt32 vTessellation:SFInt32 solid:SFBool uClosed:SFBool vClosed:SFBool uOrder:SFInt32 vOrder:SFInt32 uDimension:SFInt32 vDimension:SFInt32 uKnot:MFDouble vKnot:MFDouble weight:MFDouble texCoord:SFNode controlPoint:SFNode
NurbsPositionInterpolator children order:SFInt32 knot:MFDouble weight:MFDouble controlPoint:SFNode
NurbsSet children tessellationScale:SFFloat visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f geometry:MFNode
NurbsSurfaceInterpolator children uOrder:SFInt32 vOrder:SFInt32 uDimension:SFInt32 vDimension:SFInt32 uKnot:MFDouble vKnot:MFDouble weight:MFDouble controlPoint:SFNode
NurbsSweptSurface geometry solid:SFBool ccw:SFBool crossSectionCurve:SFNode trajectoryCurve:SFNode
NurbsSwungSurface geometry solid:SFBool ccw:SFBool profileCurve:SFNode trajectoryCurve:SFNode
NurbsTextureCoordinate texCoord uOrder:SFInt32 vOrder:SFInt32 uDimension:SFInt32 vDimension:SFInt32 uKnot:MFDouble vKnot:MFDouble weight:MFDouble controlPoint:MFVec2f
NurbsTrimmedSurface geometry uTessellation:SFInt32 vTessellation:SFInt32 solid:SFBool uClosed:SFBool vClosed:SFBool uOrder:SFInt32 vOrder:SFInt32 uDimension:SFInt32 vDimension:SFInt32 uKnot:MFDouble vKnot:MFDouble weight:MFDouble texCoord:SFNode controlPoint:SFNode trimmingContour:MFNode
OpacityMapVolumeStyle renderStyle enabled:SFBool transferFunction:SFNode
OrientationChaser children initialValue:SFRotation initialDestination:SFRotation duration:SFTime
OrientationDamper children initialValue:SFRotation initialDestination:SFRotation order:SFInt32 tau:SFTime tolerance:SFFloat
OrientationInterpolator children key:MFFloat keyValue:MFRotation
OrthoViewpoint children description:SFString position:SFVec3f orientation:SFRotation centerOfRotation:SFVec3f fieldOfView:SFVec4f nearDistance:SFFloat farDistance:SFFloat viewAll:SFBool jump:SFBool retainUserOffsets:SFBool navigationInfo:SFNode
OscillatorSource children description:SFString enabled:SFBool gain:SFFloat detune:SFFloat frequency:SFFloat periodicWave:SFNode startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime
PackagedShader shaders description:SFString language:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime
ParticleSystem children enabled:SFBool geometryType:SFString createParticles:SFBool maxParticles:SFInt32 particleLifetime:SFTime lifetimeVariation:SFFloat particleSize:SFVec2f emitter:SFNode physics:MFNode colorKey:MFFloat color:SFNode texCoordKey:MFFloat texCoord:SFNode scaleKey:MFFloat scale:SFNode pointerEvents:SFBool castShadow:SFBool visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f appearance:SFNode geometry:SFNode
PeriodicWave periodicWave description:SFString enabled:SFBool type:SFString optionsReal:MFFloat optionsImag:MFFloat
PhysicalMaterial material baseColor:SFColor baseTextureMapping:SFString baseTexture:SFNode emissiveColor:SFColor emissiveTextureMapping:SFString emissiveTexture:SFNode metallic:SFFloat roughness:SFFloat metallicRoughnessTextureMapping:SFString metallicRoughnessTexture:SFNode occlusionStrength:SFFloat occlusionTextureMapping:SFString occlusionTexture:SFNode normalScale:SFFloat normalTextureMapping:SFString normalTexture:SFNode transparency:SFFloat extensions:MFNode
PickableGroup children description:SFString pickable:SFBool objectType:MFString visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
PixelTexture texture description:SFString image:SFImage repeatS:SFBool repeatT:SFBool textureProperties:SFNode
PixelTexture3D texture description:SFString image:MFInt32 repeatS:SFBool repeatT:SFBool repeatR:SFBool textureProperties:SFNode
PlaneSensor children description:SFString enabled:SFBool axisRotation:SFRotation autoOffset:SFBool offset:SFVec3f minPosition:SFVec2f maxPosition:SFVec2f
PointEmitter emitter on:SFBool position:SFVec3f direction:SFVec3f speed:SFFloat variation:SFFloat mass:SFFloat surfaceArea:SFFloat
PointLight children global:SFBool on:SFBool color:SFColor intensity:SFFloat ambientIntensity:SFFloat attenuation:SFVec3f location:SFVec3f radius:SFFloat shadows:SFBool shadowColor:SFColor shadowIntensity:SFFloat shadowBias:SFFloat shadowMapSize:SFInt32
PointPickSensor children description:SFString enabled:SFBool objectType:MFString matchCriterion:SFString intersectionType:SFString sortOrder:SFString pickingGeometry:SFNode pickTarget:MFNode
PointProperties pointProperties pointSizeScaleFactor:SFFloat pointSizeMinValue:SFFloat pointSizeMaxValue:SFFloat attenuation:SFVec3f
PointSet geometry attrib:MFNode fogCoord:SFNode color:SFNode tangent:SFNode normal:SFNode coord:SFNode
Polyline2D geometry lineSegments:MFVec2f
PolylineEmitter emitter on:SFBool direction:SFVec3f speed:SFFloat variation:SFFloat mass:SFFloat surfaceArea:SFFloat coordIndex:MFInt32 coord:SFNode
Polypoint2D geometry point:MFVec2f
PositionChaser children initialValue:SFVec3f initialDestination:SFVec3f duration:SFTime
PositionChaser2D children initialValue:SFVec2f initialDestination:SFVec2f duration:SFTime
PositionDamper children initialValue:SFVec3f initialDestination:SFVec3f order:SFInt32 tolerance:SFFloat tau:SFTime
PositionDamper2D children initialValue:SFVec2f initialDestination:SFVec2f order:SFInt32 tau:SFTime tolerance:SFFloat
PositionInterpolator children key:MFFloat keyValue:MFVec3f
PositionInterpolator2D children key:MFFloat keyValue:MFVec2f
PrimitivePickSensor children description:SFString enabled:SFBool objectType:MFString matchCriterion:SFString intersectionType:SFString sortOrder:SFString pickingGeometry:SFNode pickTarget:MFNode
ProgramShader shaders language:SFString programs:MFNode
ProjectionVolumeStyle renderStyle enabled:SFBool type:SFString intensityThreshold:SFFloat
ProximitySensor children description:SFString enabled:SFBool size:SFVec3f center:SFVec3f
QuadSet geometry solid:SFBool ccw:SFBool colorPerVertex:SFBool normalPerVertex:SFBool attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
ReceiverPdu children description:SFString visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f enabled:SFBool address:SFString applicationID:SFInt32 entityID:SFInt32 multicastRelayHost:SFString multicastRelayPort:SFInt32 networkMode:SFString port:SFInt32 radioID:SFInt32 readInterval:SFTime receivedPower:SFFloat receiverState:SFInt32 rtpHeaderExpected:SFBool siteID:SFInt32 transmitterApplicationID:SFInt32 transmitterEntityID:SFInt32 transmitterRadioID:SFInt32 transmitterSiteID:SFInt32 whichGeometry:SFInt32 writeInterval:SFTime geoCoords:SFVec3d geoSystem:MFString
Rectangle2D geometry size:SFVec2f solid:SFBool
RenderedTexture texture description:SFString enabled:SFBool replaceImage:SFBool maximumNumberFrames:SFInt32 url:MFString update:SFString updateInterval:SFTime dimensions:MFInt32 depthMap:SFBool repeatS:SFBool repeatT:SFBool textureProperties:SFNode children:MFNode
RigidBody bodies enabled:SFBool fixed:SFBool position:SFVec3f orientation:SFRotation linearVelocity:SFVec3f angularVelocity:SFVec3f useFiniteRotation:SFBool finiteRotationAxis:SFVec3f autoDamp:SFBool linearDampingFactor:SFFloat angularDampingFactor:SFFloat mass:SFFloat centerOfMass:SFVec3f inertia:SFMatrix3f massDensityModel:SFNode useGlobalGravity:SFBool forces:MFVec3f torques:MFVec3f autoDisable:SFBool disableTime:SFTime disableLinearSpeed:SFFloat disableAngularSpeed:SFFloat visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f geometry:MFNode
RigidBodyCollection children enabled:SFBool preferAccuracy:SFBool errorCorrection:SFFloat iterations:SFInt32 gravity:SFVec3f constantForceMix:SFFloat maxCorrectionSpeed:SFFloat contactSurfaceThickness:SFFloat autoDisable:SFBool disableTime:SFTime disableLinearSpeed:SFFloat disableAngularSpeed:SFFloat visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f collider:SFNode bodies:MFNode joints:MFNode
ScalarChaser children initialValue:SFFloat initialDestination:SFFloat duration:SFTime
ScalarDamper children initialValue:SFFloat initialDestination:SFFloat order:SFInt32 tau:SFTime tolerance:SFFloat
ScalarInterpolator children key:MFFloat keyValue:MFFloat
ScreenFontStyle fontStyle language:SFString family:MFString style:SFString pointSize:SFFloat spacing:SFFloat horizontal:SFBool leftToRight:SFBool topToBottom:SFBool justify:MFString
ScreenGroup children visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
Script children description:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime directOutput:SFBool mustEvaluate:SFBool
SegmentedVolumeData children dimensions:SFVec3f segmentEnabled:MFBool visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f segmentIdentifiers:SFNode renderStyle:MFNode voxels:SFNode
ShadedVolumeStyle renderStyle enabled:SFBool lighting:SFBool shadows:SFBool phaseFunction:SFString material:SFNode surfaceNormals:SFNode
ShaderPart parts description:SFString type:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime
ShaderProgram programs description:SFString type:SFString load:SFBool url:MFString autoRefresh:SFTime autoRefreshTimeLimit:SFTime
Shape children pointerEvents:SFBool castShadow:SFBool visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f appearance:SFNode geometry:SFNode
SignalPdu children description:SFString visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f enabled:SFBool address:SFString applicationID:SFInt32 data:MFInt32 dataLength:SFInt32 encodingScheme:SFInt32 entityID:SFInt32 multicastRelayHost:SFString multicastRelayPort:SFInt32 networkMode:SFString port:SFInt32 radioID:SFInt32 readInterval:SFTime rtpHeaderExpected:SFBool sampleRate:SFInt32 samples:SFInt32 siteID:SFInt32 tdlType:SFInt32 whichGeometry:SFInt32 writeInterval:SFTime geoCoords:SFVec3d geoSystem:MFString
SilhouetteEnhancementVolumeStyle renderStyle enabled:SFBool silhouetteRetainedOpacity:SFFloat silhouetteBoundaryOpacity:SFFloat silhouetteSharpness:SFFloat surfaceNormals:SFNode
SingleAxisHingeJoint joints forceOutput:MFString anchorPoint:SFVec3f axis:SFVec3f minAngle:SFFloat maxAngle:SFFloat stopBounce:SFFloat stopErrorCorrection:SFFloat body1:SFNode body2:SFNode
SliderJoint joints forceOutput:MFString axis:SFVec3f minSeparation:SFFloat maxSeparation:SFFloat sliderForce:SFFloat stopBounce:SFFloat stopErrorCorrection:SFFloat body1:SFNode body2:SFNode
Sound children description:SFString enabled:SFBool spatialize:SFBool intensity:SFFloat location:SFVec3f direction:SFVec3f minBack:SFFloat minFront:SFFloat maxBack:SFFloat maxFront:SFFloat priority:SFFloat source:SFNode children:MFNode
SpatialSound children description:SFString enabled:SFBool spatialize:SFBool intensity:SFFloat location:SFVec3f direction:SFVec3f gain:SFFloat coneOuterGain:SFFloat coneInnerAngle:SFFloat coneOuterAngle:SFFloat distanceModel:SFString maxDistance:SFFloat referenceDistance:SFFloat rolloffFactor:SFFloat enableHRTF:SFBool dopplerEnabled:SFBool priority:SFFloat children:MFNode
Sphere geometry radius:SFFloat solid:SFBool
SphereSensor children description:SFString enabled:SFBool autoOffset:SFBool offset:SFRotation
SplinePositionInterpolator children closed:SFBool key:MFFloat keyValue:MFVec3f keyVelocity:MFVec3f normalizeVelocity:SFBool
SplinePositionInterpolator2D children closed:SFBool key:MFFloat keyValue:MFVec2f keyVelocity:MFVec2f normalizeVelocity:SFBool
SplineScalarInterpolator children closed:SFBool key:MFFloat keyValue:MFFloat keyVelocity:MFFloat normalizeVelocity:SFBool
SpotLight children global:SFBool on:SFBool color:SFColor intensity:SFFloat ambientIntensity:SFFloat attenuation:SFVec3f location:SFVec3f direction:SFVec3f radius:SFFloat beamWidth:SFFloat cutOffAngle:SFFloat shadows:SFBool shadowColor:SFColor shadowIntensity:SFFloat shadowBias:SFFloat shadowMapSize:SFInt32
SquadOrientationInterpolator children closed:SFBool key:MFFloat keyValue:MFRotation normalizeVelocity:SFBool
StaticGroup children visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
StreamAudioDestination children description:SFString enabled:SFBool gain:SFFloat mediaDeviceID:SFString streamIdentifier:MFString channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString children:MFNode
StreamAudioSource children description:SFString enabled:SFBool gain:SFFloat streamIdentifier:MFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime
StringSensor children description:SFString enabled:SFBool deletionAllowed:SFBool
SurfaceEmitter emitter on:SFBool speed:SFFloat variation:SFFloat mass:SFFloat surfaceArea:SFFloat surface:SFNode
Switch children whichChoice:SFInt32 visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
Tangent tangent vector:MFVec4f
TexCoordChaser2D children initialValue:MFVec2f initialDestination:MFVec2f duration:SFTime
TexCoordDamper2D children initialValue:MFVec2f initialDestination:MFVec2f order:SFInt32 tau:SFTime tolerance:SFFloat
Text geometry string:MFString length:MFFloat maxExtent:SFFloat solid:SFBool fontStyle:SFNode
TextureBackground children skyAngle:MFFloat skyColor:MFColor groundAngle:MFFloat groundColor:MFColor transparency:SFFloat frontTexture:SFNode backTexture:SFNode leftTexture:SFNode rightTexture:SFNode topTexture:SFNode bottomTexture:SFNode
TextureCoordinate texCoord mapping:SFString point:MFVec2f
TextureCoordinate3D texCoord mapping:SFString point:MFVec3f
TextureCoordinate4D texCoord mapping:SFString point:MFVec4f
TextureCoordinateGenerator texCoord mapping:SFString mode:SFString parameter:MFFloat
TextureProjector children description:SFString global:SFBool on:SFBool color:SFColor intensity:SFFloat ambientIntensity:SFFloat location:SFVec3f direction:SFVec3f upVector:SFVec3f fieldOfView:SFFloat nearDistance:SFFloat farDistance:SFFloat texture:SFNode shadows:SFBool shadowColor:SFColor shadowIntensity:SFFloat shadowBias:SFFloat shadowMapSize:SFInt32
TextureProjectorParallel children description:SFString global:SFBool on:SFBool color:SFColor intensity:SFFloat ambientIntensity:SFFloat location:SFVec3f direction:SFVec3f upVector:SFVec3f fieldOfView:SFVec4f nearDistance:SFFloat farDistance:SFFloat texture:SFNode shadows:SFBool shadowColor:SFColor shadowIntensity:SFFloat shadowBias:SFFloat shadowMapSize:SFInt32
TextureProperties textureProperties borderColor:SFColorRGBA borderWidth:SFInt32 anisotropicDegree:SFFloat generateMipMaps:SFBool minificationFilter:SFString magnificationFilter:SFString boundaryModeS:SFString boundaryModeT:SFString boundaryModeR:SFString textureCompression:SFString texturePriority:SFFloat
TextureTransform textureTransform mapping:SFString translation:SFVec2f rotation:SFFloat scale:SFVec2f center:SFVec2f
TextureTransform3D textureTransform mapping:SFString translation:SFVec3f rotation:SFRotation scale:SFVec3f center:SFVec3f
TextureTransformMatrix3D textureTransform mapping:SFString matrix:SFMatrix4f
TimeSensor children description:SFString enabled:SFBool cycleInterval:SFTime loop:SFBool startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime
TimeTrigger children
ToneMappedVolumeStyle renderStyle enabled:SFBool coolColor:SFColorRGBA warmColor:SFColorRGBA surfaceNormals:SFNode
TouchSensor children description:SFString enabled:SFBool
Transform children translation:SFVec3f rotation:SFRotation scale:SFVec3f scaleOrientation:SFRotation center:SFVec3f visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
TransformSensor children description:SFString enabled:SFBool size:SFVec3f center:SFVec3f targetObject:SFNode
TransmitterPdu children description:SFString visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f enabled:SFBool address:SFString antennaLocation:SFVec3f antennaPatternLength:SFInt32 antennaPatternType:SFInt32 applicationID:SFInt32 cryptoKeyID:SFInt32 cryptoSystem:SFInt32 entityID:SFInt32 frequency:SFInt32 inputSource:SFInt32 lengthOfModulationParameters:SFInt32 modulationTypeDetail:SFInt32 modulationTypeMajor:SFInt32 modulationTypeSpreadSpectrum:SFInt32 modulationTypeSystem:SFInt32 multicastRelayHost:SFString multicastRelayPort:SFInt32 networkMode:SFString port:SFInt32 power:SFFloat radioEntityTypeCategory:SFInt32 radioEntityTypeCountry:SFInt32 radioEntityTypeDomain:SFInt32 radioEntityTypeKind:SFInt32 radioEntityTypeNomenclature:SFInt32 radioEntityTypeNomenclatureVersion:SFInt32 radioID:SFInt32 readInterval:SFTime relativeAntennaLocation:SFVec3f rtpHeaderExpected:SFBool siteID:SFInt32 transmitFrequencyBandwidth:SFFloat transmitState:SFInt32 whichGeometry:SFInt32 writeInterval:SFTime geoCoords:SFVec3d geoSystem:MFString
TriangleFanSet geometry solid:SFBool ccw:SFBool colorPerVertex:SFBool normalPerVertex:SFBool fanCount:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
TriangleSet geometry solid:SFBool ccw:SFBool colorPerVertex:SFBool normalPerVertex:SFBool attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
TriangleSet2D geometry vertices:MFVec2f solid:SFBool
TriangleStripSet geometry solid:SFBool ccw:SFBool colorPerVertex:SFBool normalPerVertex:SFBool stripCount:MFInt32 attrib:MFNode fogCoord:SFNode color:SFNode texCoord:SFNode tangent:SFNode normal:SFNode coord:SFNode
TwoSidedMaterial material separateBackColor:SFBool ambientIntensity:SFFloat diffuseColor:SFColor specularColor:SFColor emissiveColor:SFColor shininess:SFFloat transparency:SFFloat backAmbientIntensity:SFFloat backDiffuseColor:SFColor backSpecularColor:SFColor backEmissiveColor:SFColor backShininess:SFFloat backTransparency:SFFloat
UniversalJoint joints forceOutput:MFString anchorPoint:SFVec3f axis1:SFVec3f axis2:SFVec3f stop1Bounce:SFFloat stop2Bounce:SFFloat stop1ErrorCorrection:SFFloat stop2ErrorCorrection:SFFloat body1:SFNode body2:SFNode
UnlitMaterial material emissiveColor:SFColor emissiveTextureMapping:SFString emissiveTexture:SFNode normalScale:SFFloat normalTextureMapping:SFString normalTexture:SFNode transparency:SFFloat
Viewpoint children description:SFString position:SFVec3f orientation:SFRotation centerOfRotation:SFVec3f fieldOfView:SFFloat nearDistance:SFFloat farDistance:SFFloat viewAll:SFBool jump:SFBool retainUserOffsets:SFBool navigationInfo:SFNode
ViewpointGroup children description:SFString displayed:SFBool retainUserOffsets:SFBool size:SFVec3f center:SFVec3f children:MFNode
Viewport viewport clipBoundary:MFFloat visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f children:MFNode
VisibilitySensor children description:SFString enabled:SFBool size:SFVec3f center:SFVec3f
VolumeData children dimensions:SFVec3f visible:SFBool bboxDisplay:SFBool bboxSize:SFVec3f bboxCenter:SFVec3f renderStyle:SFNode voxels:SFNode
VolumeEmitter emitter on:SFBool internal:SFBool direction:SFVec3f speed:SFFloat variation:SFFloat mass:SFFloat surfaceArea:SFFloat coordIndex:MFInt32 coord:SFNode
VolumePickSensor children description:SFString enabled:SFBool objectType:MFString matchCriterion:SFString intersectionType:SFString sortOrder:SFString pickingGeometry:SFNode pickTarget:MFNode
WaveShaper children description:SFString enabled:SFBool gain:SFFloat tailTime:SFTime curve:MFFloat oversample:SFString channelCount:SFInt32 channelCountMode:SFString channelInterpretation:SFString startTime:SFTime resumeTime:SFTime pauseTime:SFTime stopTime:SFTime children:MFNode
WindPhysicsModel physics enabled:SFBool direction:SFVec3f speed:SFFloat gustiness:SFFloat turbulence:SFFloat
WorldInfo children title:SFString info:MFString
X3DBBoxNode children
`;

/** Nodes whose source may stand in them as text, and which declare fields of their own. */
export const scripts = new Set(['Script', 'ShaderPart', 'ShaderProgram', 'PackagedShader', 'ComposedShader']);

let nodes: ReadonlyMap<string, NodeType> | null = null;

function read(): ReadonlyMap<string, NodeType> {
  return new Map(
    table
      .trim()
      .split('\n')
      .map((line) => {
        const [name, container, ...fields] = line.split(' ');
        const typed = fields.map((f) => f.split(':') as [string, FieldType]);
        return [name!, { container: container!, fields: new Map([['metadata', 'SFNode'], ...typed]) }];
      }),
  );
}

export const nodeType = (name: string): NodeType | undefined => (nodes ??= read()).get(name);

/** The field of a parent that holds a node of a type where none is told. Metadata are values of a set, and metadata of all else. */
export function containerOf(type: string, parent: string): string {
  if (type.startsWith('Metadata')) return parent === 'MetadataSet' ? 'value' : 'metadata';
  return nodeType(type)?.container ?? 'children';
}
